import type { Finding } from '@anthemion/core';
import { ChevronDown } from 'lucide-react';
import type { ReactNode } from 'react';
import {
  FieldError,
  Input,
  Label,
  ListBox,
  ListBoxItem,
  Popover,
  Select,
  SelectValue,
  Text,
  TextArea,
  TextField,
  Button as AriaButton,
} from 'react-aria-components';
import { css, styled } from 'styled-components';
import { mono, token } from './theme.ts';
export { Tick } from './Tick.tsx';

const box = css`
  border: 1px solid ${token('rule')};
  border-radius: 4px;
  background: ${token('sheet')};
  padding: 6px 9px;
  width: 100%;
  &::placeholder {
    color: ${token('faded')};
    opacity: 0.9;
  }
  &[data-invalid] {
    border-color: ${token('madder')};
  }
`;
const Field = styled.div`
  display: flex;
  flex-direction: column;
  gap: 3px;
  font-size: 13px;
  label,
  .react-aria-Label {
    font-weight: 600;
  }
  input,
  textarea {
    ${box}
  }
  textarea {
    font: 12.5px/1.5 ${mono};
    resize: vertical;
  }
  .mono {
    font-family: ${mono};
    font-size: 12.5px;
  }
  [slot='description'] {
    color: ${token('faded')};
    font-size: 12px;
  }
  [slot='errorMessage'],
  .error {
    color: ${token('madder')};
    font-size: 12.5px;
  }
`;

interface TextProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly onBlur?: () => void;
  readonly hint?: ReactNode;
  readonly error?: string | undefined;
  readonly placeholder?: string;
  readonly code?: boolean;
  readonly type?: 'text' | 'password';
  readonly lines?: number;
  readonly autoFocus?: boolean;
  readonly isRequired?: boolean;
}
export function TextInput({
  label,
  value,
  onChange,
  onBlur,
  hint,
  error,
  placeholder,
  code,
  type = 'text',
  lines,
  autoFocus,
  isRequired,
}: TextProps) {
  return (
    <TextField
      value={value}
      onChange={onChange}
      {...(onBlur ? { onBlur } : {})}
      isInvalid={error !== undefined}
      type={type}
      validationBehavior="aria"
      {...(isRequired ? { isRequired } : {})}
      {...(autoFocus ? { autoFocus } : {})}
    >
      <Field>
        <Label>{label}</Label>
        {lines ? (
          <TextArea rows={lines} placeholder={placeholder ?? ''} />
        ) : (
          <Input className={code ? 'mono' : ''} placeholder={placeholder ?? ''} />
        )}
        {hint && error === undefined && <Text slot="description">{hint}</Text>}
        <FieldError>{error}</FieldError>
      </Field>
    </TextField>
  );
}

export interface Option {
  readonly id: string;
  readonly name: string;
  readonly note?: string;
}
interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly options: readonly Option[];
  readonly hint?: ReactNode;
  readonly error?: string | undefined;
  readonly placeholder?: string;
  readonly hideLabel?: boolean;
}
export function Choice({
  label,
  value,
  onChange,
  options,
  hint,
  error,
  placeholder = 'Choose …',
  hideLabel,
}: ChoiceProps) {
  return (
    <Select
      selectedKey={value === '' ? null : value}
      onSelectionChange={(k) => onChange(k === null ? '' : String(k))}
      isInvalid={error !== undefined}
      placeholder={placeholder}
      {...(hideLabel ? { 'aria-label': label } : {})}
    >
      <Field>
        {!hideLabel && <Label>{label}</Label>}
        <ChoiceButton>
          <SelectValue>{({ selectedText, isPlaceholder }) => (isPlaceholder ? placeholder : selectedText)}</SelectValue>
          <ChevronDown size={14} aria-hidden />
        </ChoiceButton>
        {hint && error === undefined && <Text slot="description">{hint}</Text>}
        <FieldError>{error}</FieldError>
      </Field>
      <ChoicePopover>
        <ListBox items={options}>
          {(o) => (
            <ChoiceItem id={o.id} textValue={o.name}>
              <span>{o.name}</span>
              {o.note && <small>{o.note}</small>}
            </ChoiceItem>
          )}
        </ListBox>
      </ChoicePopover>
    </Select>
  );
}
const ChoiceButton = styled(AriaButton)`
  ${box}
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  cursor: pointer;
  text-align: left;
`;
export const ChoicePopover = styled(Popover)`
  background: ${token('sheet')};
  border: 1px solid ${token('rule')};
  border-radius: 5px;
  box-shadow: 0 8px 24px ${token('shade')};
  min-width: var(--trigger-width);
  max-height: 320px;
  overflow: auto;
  padding: 4px;
`;
const ChoiceItem = styled(ListBoxItem)`
  padding: 5px 9px;
  border-radius: 3px;
  font-size: 13px;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  small {
    color: ${token('faded')};
  }
  &[data-focused] {
    background: ${token('verdigris-wash')};
    outline: none;
  }
  &[data-selected] {
    font-weight: 600;
  }
`;

export const FormGrid = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(180px, 1fr));
  gap: 12px 16px;
  align-items: start;
`;
/** So many findings are read at a foot; the rest is counted. */
const MOST_SAID = 8;

/** What no field of a form takes. */
export function Leftovers({
  findings,
  detail,
}: {
  readonly findings: readonly Finding[];
  readonly detail?: string | undefined;
}) {
  if (findings.length === 0 && !detail) return null;
  return (
    <Field role="alert">
      {findings.slice(0, MOST_SAID).map((f) => (
        <span className="error" key={f.message}>
          {f.message} {f.cure}
        </span>
      ))}
      {findings.length > MOST_SAID && <span className="error">And {findings.length - MOST_SAID} more like these.</span>}
      {findings.length === 0 && detail && <span className="error">{detail}</span>}
    </Field>
  );
}
