import type { KeyboardEvent, RefObject } from 'react';

interface Walked {
  readonly svg: RefObject<SVGSVGElement | null>;
  /** What can be reached, in the order of the arrow keys, by its place in the URL. */
  readonly spines: readonly string[];
  readonly petals: readonly string[];
  readonly selected: string | null;
  readonly onSelect: (at: string) => void;
  /** A second Enter on a petal; absent = a petal does not open. */
  readonly onOpen?: (at: string) => void;
}

/**
 * One stop of the tab key for a whole palmette: left and right go round, up and down between spines and petals, Enter
 * selects. The answer makes an element one that is reached so.
 */
export function usePalmetteKeys({ svg, spines, petals, selected, onSelect, onOpen }: Walked) {
  const order = [...spines, ...petals];
  const walk = (e: KeyboardEvent, at: string): void => {
    const isSpine = spines.includes(at);
    if (e.key === 'Enter' || e.key === ' ') {
      e.preventDefault();
      if (e.key === 'Enter' && onOpen && !isSpine && selected === at) onOpen(at);
      else onSelect(at);
      return;
    }
    const step = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    const jump = e.key === 'ArrowUp' && isSpine ? spines.length : e.key === 'ArrowDown' && !isSpine ? 0 : undefined;
    const next = order[jump ?? order.indexOf(at) + (step ?? Number.NaN)];
    if (next === undefined) return;
    e.preventDefault();
    onSelect(next);
    requestAnimationFrame(() => svg.current?.querySelector<SVGElement>(`[data-at="${next}"]`)?.focus());
  };
  const reachable = selected !== null && order.includes(selected) ? selected : order[0];
  return (at: string, label: string) => ({
    'data-at': at,
    role: 'button',
    'aria-label': label,
    'aria-pressed': selected === at,
    tabIndex: at === reachable ? 0 : -1,
    onClick: () => onSelect(at),
    onKeyDown: (e: KeyboardEvent) => walk(e, at),
    style: { cursor: 'pointer' },
  });
}
