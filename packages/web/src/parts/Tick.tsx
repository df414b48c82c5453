import { Checkbox as AriaCheckbox } from 'react-aria-components';
import { styled } from 'styled-components';
import { token } from './theme.ts';

/** A tick box with its words, or with a name only. */
export function Tick({
  label,
  value,
  onChange,
  hint,
  error,
  hideLabel = false,
}: {
  readonly label: string;
  readonly value: boolean;
  readonly onChange: (on: boolean) => void;
  readonly hint?: string;
  readonly error?: string | undefined;
  readonly hideLabel?: boolean;
}) {
  return (
    <TickBox
      isSelected={value}
      onChange={onChange}
      isInvalid={error !== undefined}
      {...(hideLabel ? { 'aria-label': label } : {})}
    >
      <span className="box" aria-hidden>
        <svg width="12" height="12" viewBox="0 0 12 12">
          {value && <path d="M2 6.4 4.8 9 10 3" fill="none" stroke="currentColor" strokeWidth="1.8" />}
        </svg>
      </span>
      {!hideLabel && (
        <span>
          {label}
          {error !== undefined ? <small className="error">{error}</small> : hint && <small>{hint}</small>}
        </span>
      )}
    </TickBox>
  );
}
const TickBox = styled(AriaCheckbox)`
  display: flex;
  gap: 8px;
  align-items: flex-start;
  font-size: 13px;
  cursor: pointer;
  .box {
    width: 16px;
    height: 16px;
    flex: none;
    margin-top: 1px;
    border: 1px solid ${token('faded')};
    border-radius: 3px;
    display: grid;
    place-items: center;
    color: ${token('on-main')};
    background: ${token('sheet')};
  }
  &[data-selected] .box {
    background: ${token('verdigris')};
    border-color: ${token('verdigris')};
  }
  &[data-focus-visible] .box {
    outline: 2px solid ${token('verdigris')};
    outline-offset: 2px;
  }
  small {
    display: block;
    color: ${token('faded')};
  }
  .error {
    color: ${token('madder')};
  }
`;
