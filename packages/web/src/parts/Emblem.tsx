import { token } from './theme.ts';

/** The fan of petals over its base. */
export function Emblem({ size = 26 }: { readonly size?: number }) {
  const petals = [-3, -2, -1, 0, 1, 2, 3].map((i) => {
    const l = i === 0 ? 12 : 11.2 - Math.abs(i) * 0.9;
    return (
      <path
        key={i}
        d={`M0 0C-2.1 ${-l * 0.45} -2.2 ${-l * 0.8} 0 ${-l}C2.2 ${-l * 0.8} 2.1 ${-l * 0.45} 0 0Z`}
        transform={`translate(14 19) rotate(${i * 27})`}
        fill={token('verdigris')}
        opacity={1 - Math.abs(i) * 0.13}
      />
    );
  });
  return (
    <svg width={size} height={size} viewBox="0 0 28 28" aria-hidden>
      {petals}
      <path
        d="M5 22.5c3-2.6 6-2.6 9 0c3-2.6 6-2.6 9 0"
        fill="none"
        stroke={token('ochre')}
        strokeWidth={1.7}
        strokeLinecap="round"
      />
    </svg>
  );
}
