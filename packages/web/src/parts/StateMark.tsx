import { useId } from 'react';
import { token, type Token } from './theme.ts';

/** One family of marks, drawn from a petal, for every state and fullness; see docs/interface.md. */
export type Mood = 'bud' | 'half-open' | 'bloom' | 'fallen' | 'dewed' | 'folded';

const PETAL = 'M8 1.2C11.6 4.6 12.8 7.6 12.8 10A4.8 4.8 0 0 1 3.2 10C3.2 7.6 4.4 4.6 8 1.2Z';
const COLOURS: Readonly<Record<Mood, Token>> = {
  bud: 'faded',
  'half-open': 'verdigris',
  bloom: 'verdigris',
  fallen: 'madder',
  dewed: 'ochre',
  folded: 'plum',
};

interface Props {
  readonly mood: Mood;
  readonly size?: 12 | 14 | 16 | 24;
  /** Fullness 0–1 of a half-open mark. */
  readonly share?: number;
  /** Said to screen readers; leave out where the word stands beside it. */
  readonly label?: string;
}

export function StateMark({ mood, size = 14, share = 0.5, label }: Props) {
  const clip = useId();
  const colour = token(COLOURS[mood]);
  const outline = <path d={PETAL} fill="none" stroke={colour} strokeWidth={1.4} />;
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 16 16"
      style={{ flex: 'none' }}
      {...(label ? { role: 'img', 'aria-label': label } : { 'aria-hidden': true })}
    >
      {mood === 'bud' && outline}
      {mood === 'half-open' && (
        <>
          <clipPath id={clip}>
            <rect x={0} y={15 - 13.6 * share} width={16} height={16} />
          </clipPath>
          <path d={PETAL} fill={colour} clipPath={`url(#${clip})`} />
          {outline}
        </>
      )}
      {mood === 'bloom' && (
        <>
          <path d={PETAL} fill={colour} />
          <path d="M8 13.6V7.2" stroke={token('sheet')} strokeWidth={1.2} strokeLinecap="round" />
        </>
      )}
      {mood === 'fallen' && (
        <>
          <path d={PETAL} transform="rotate(180 8 8)" fill={colour} />
          <path
            d="M5.6 3.9 10.4 8.7M10.4 3.9 5.6 8.7"
            stroke={token('sheet')}
            strokeWidth={1.4}
            strokeLinecap="round"
          />
        </>
      )}
      {mood === 'dewed' && (
        <>
          {outline}
          <circle cx={8} cy={10} r={2.5} fill={colour} />
        </>
      )}
      {mood === 'folded' && (
        <>
          {outline}
          <path d="M2.5 13.5 13.5 3.5" stroke={colour} strokeWidth={1.6} strokeLinecap="round" />
        </>
      )}
    </svg>
  );
}

/** The mark for a fullness: nothing, part, all. */
export const fullness = (part: number, whole: number): { mood: Mood; share: number } => ({
  mood: part <= 0 ? 'bud' : part >= whole ? 'bloom' : 'half-open',
  share: whole > 0 ? part / whole : 0,
});
