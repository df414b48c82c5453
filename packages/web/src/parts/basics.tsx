import { Check, Copy } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Button as AriaButton } from 'react-aria-components';
import { styled } from 'styled-components';
import { mono, sans, serif, token } from './theme.ts';

export const Cap = styled.div`
  font: 600 11px ${sans};
  letter-spacing: 0.09em;
  text-transform: uppercase;
  color: ${token('faded')};
`;
export const Mono = styled.span`
  font: 12.5px ${mono};
`;
export const Faded = styled.span`
  color: ${token('faded')};
`;
export const H2 = styled.h2`
  font: 600 18px/1.25 ${serif};
`;
/** Smaller heading of an aside or a list entry; second in rank, right below the page's own. */
export const H3 = styled.h2`
  font: 600 16px/1.3 ${serif};
`;
export const Row = styled.div<{ $gap?: number; $wrap?: boolean; $align?: string }>`
  display: flex;
  align-items: ${(p) => p.$align ?? 'center'};
  gap: ${(p) => p.$gap ?? 8}px;
  ${(p) => p.$wrap && 'flex-wrap: wrap;'}
`;
export const Stack = styled.div<{ $gap?: number }>`
  display: flex;
  flex-direction: column;
  gap: ${(p) => p.$gap ?? 10}px;
`;
export const Rule = styled.hr`
  border: 0;
  border-top: 1px solid ${token('rule')};
  margin: 2px 0;
  width: 100%;
`;

/** The buttons at the foot of an aside: in view however long the rest is. */
export const AsideFoot = styled.div`
  position: sticky;
  bottom: -16px;
  margin: auto -18px -16px;
  padding: 10px 18px 14px;
  background: ${token('sheet')};
  border-top: 1px solid ${token('rule-soft')};
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
`;

type ButtonKind = 'main' | 'quiet' | 'neutral' | 'danger';
export const Button = styled(AriaButton)<{ $kind?: ButtonKind }>`
  border-radius: 4px;
  padding: 5px 13px;
  font: 600 13px/1.4 ${sans};
  cursor: pointer;
  text-decoration: none;
  display: inline-flex;
  gap: 6px;
  align-items: center;
  justify-content: center;
  white-space: nowrap;
  border: 1px solid
    ${(p) => ({ main: token('verdigris'), quiet: token('verdigris'), neutral: token('rule'), danger: token('madder') })[p.$kind ?? 'neutral']};
  background: ${(p) => (p.$kind === 'main' ? token('verdigris') : 'transparent')};
  color: ${(p) => ({ main: token('on-main'), quiet: token('verdigris'), neutral: token('ink'), danger: token('madder') })[p.$kind ?? 'neutral']};
  &[data-hovered] {
    background: ${(p) => (p.$kind === 'main' ? token('verdigris') : token('rule-soft'))};
  }
  &[data-disabled] {
    opacity: 0.5;
    cursor: default;
  }
`;
export const IconButton = styled(AriaButton)`
  border: 0;
  background: none;
  padding: 3px;
  border-radius: 4px;
  color: ${token('faded')};
  cursor: pointer;
  display: inline-flex;
  &[data-hovered] {
    color: ${token('ink')};
    background: ${token('rule-soft')};
  }
  &[data-disabled] {
    opacity: 0.4;
  }
`;

export const Facts = styled.dl`
  display: grid;
  grid-template-columns: minmax(84px, auto) 1fr;
  gap: 5px 10px;
  font-size: 13px;
  dt {
    color: ${token('faded')};
  }
  dd {
    text-align: right;
    overflow-wrap: anywhere;
  }
`;

/** A sentence about what belongs here, one action, and how to begin. */
export function Empty({
  title,
  children,
  action,
}: {
  readonly title: string;
  readonly children: ReactNode;
  readonly action?: ReactNode;
}) {
  return (
    <EmptyBox>
      <svg width="58" height="58" viewBox="0 0 16 16" aria-hidden>
        <path
          d="M8 1.2C11.6 4.6 12.8 7.6 12.8 10A4.8 4.8 0 0 1 3.2 10C3.2 7.6 4.4 4.6 8 1.2Z"
          fill="none"
          stroke={token('link')}
          strokeWidth={0.5}
        />
      </svg>
      <H2>{title}</H2>
      <p>{children}</p>
      {action}
    </EmptyBox>
  );
}
const EmptyBox = styled.div`
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 10px;
  text-align: center;
  max-width: 440px;
  margin: 64px auto;
  p {
    color: ${token('faded')};
  }
`;

/** Waiting: nothing for a moment, then a quiet hint. */
export const Waiting = ({ what = 'Reading' }: { readonly what?: string }) => (
  <WaitingText role="status">{what} …</WaitingText>
);
const WaitingText = styled.p`
  color: ${token('faded')};
  padding: 28px 0;
  animation: appear 0.2s 0.25s both;
  @keyframes appear {
    from {
      opacity: 0;
    }
  }
`;

/** Something failed: what, why, and a way on. */
export function Failure({
  title = 'This could not be read',
  detail,
  onRetry,
}: {
  readonly title?: string;
  readonly detail: string;
  readonly onRetry?: () => void;
}) {
  return (
    <FailureBox role="alert">
      <b>{title}</b>
      <span>{detail}</span>
      {onRetry && (
        <Button onPress={onRetry} $kind="neutral">
          Try again
        </Button>
      )}
    </FailureBox>
  );
}
const FailureBox = styled.div`
  border-left: 3px solid ${token('madder')};
  background: ${token('madder-wash')};
  padding: 10px 14px;
  margin: 12px 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: flex-start;
  max-width: 640px;
`;

interface CopyableProps {
  readonly text: string;
  /** What it is called where it is long; absent = by itself. */
  readonly label?: string;
  readonly children?: ReactNode;
}

/** An identifier, or some lines, that can be copied. */
export function Copyable({ text, label = text, children }: CopyableProps) {
  const [done, setDone] = useState(false);
  return (
    <CopyBox>
      {children ?? <Mono>{text}</Mono>}
      <CopyButton
        type="button"
        aria-label={done ? 'Copied' : `Copy ${label}`}
        onClick={() => {
          void navigator.clipboard?.writeText(text).then(() => {
            setDone(true);
            setTimeout(() => setDone(false), 1200);
          });
        }}
      >
        {done ? <Check size={13} /> : <Copy size={13} />}
      </CopyButton>
    </CopyBox>
  );
}
/** Tables hold one in every row: a plain button, without what a press on a touch screen would take. */
const CopyButton = styled.button`
  border: 0;
  background: none;
  padding: 3px;
  border-radius: 4px;
  color: ${token('faded')};
  cursor: pointer;
  display: inline-flex;
  &:hover {
    color: ${token('ink')};
    background: ${token('rule-soft')};
  }
`;
const CopyBox = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 2px;
`;

export const Note = styled.p<{ $tone?: 'wait' | 'bad' | 'good' | 'plain' }>`
  border-left: 3px solid
    ${(p) => ({ wait: token('ochre'), bad: token('madder'), good: token('verdigris'), plain: token('rule') })[p.$tone ?? 'plain']};
  padding: 3px 0 3px 10px;
  font-size: 13px;
`;
export const Bad = styled.b`
  color: ${token('madder')};
`;
export const New = styled.b`
  color: ${token('lapis')};
`;
