import { soughtHost, soughtOf, type Sought } from '@anthemion/core';
import { Command } from 'cmdk';
import {
  useEffect,
  useRef,
  useState,
  type KeyboardEvent as ReactKeyboardEvent,
  type PointerEvent as ReactPointerEvent,
  type ReactNode,
} from 'react';
import { useLocation, useNavigate } from 'react-router';
import { createGlobalStyle } from 'styled-components';
import { api } from './api.ts';
import { foundLead } from './foundLead.ts';
import { pagesOfAccess, SECTIONS } from './sections.ts';
import { changeOpened, useAppDispatch } from './store.ts';
import { useDoings } from './useDoings.ts';
import { useFinding } from './useFinding.ts';
import { fabricOfPath } from './usePresence.ts';
import { watchApi } from './watchApi.ts';
import { sans, token } from '../parts/theme.ts';

const FABRIC_PAGES = [
  '',
  'values',
  'seats',
  'cables',
  'tenants',
  'ports',
  'outside',
  'routing',
  'text',
  'proof',
  'history',
] as const;

/** A line of the palette. */
interface Entry {
  readonly key: string;
  /** What is compared with what was typed. */
  readonly text: string;
  readonly shown: ReactNode;
  readonly act: () => void;
}
const UNANSWERED = 'Objects could not be looked for: the server did not answer.';
/** A line one may take. */
interface Chosen {
  readonly value: string;
  readonly act: () => void;
}
interface Choosing {
  readonly lines: readonly Chosen[];
  /** Is something still to come? */
  readonly waits: boolean;
  /** The line one walked to since one typed. */
  readonly walked: string | null;
  readonly onWalk: (value: string) => void;
  readonly onTake: (line: Chosen) => void;
}
const UNTYPED: { readonly text: string; readonly walked: string | null } = { text: '', walked: null };
/** Of a part that is long, so many are shown before anything was typed. */
const MOST_UNTYPED = 8;

/** How well a line fits: it begins so, a word of it does, it is within, or its words stand in any order. */
const SCORES = { begins: 3, word: 2, within: 1, words: 0.5 } as const;
function scoreOf(line: string, { whole, words }: Sought): number {
  const text = line.toLowerCase();
  if (text.startsWith(whole)) return SCORES.begins;
  if (text.includes(` ${whole}`)) return SCORES.word;
  if (text.includes(whole)) return SCORES.within;
  return words.every((w) => text.includes(w)) ? SCORES.words : 0;
}

/** Those that what was typed is in, best first; all of them where nothing was. */
function fitting(
  entries: readonly Entry[],
  sought: Sought,
): { readonly best: number; readonly entries: readonly Entry[] } {
  if (sought.whole === '') return { best: 0, entries };
  const scored = entries.map((entry) => ({ entry, score: scoreOf(entry.text, sought) })).filter((s) => s.score > 0);
  scored.sort((a, b) => b.score - a.score);
  return { best: scored[0]?.score ?? 0, entries: scored.map((s) => s.entry) };
}

/** Where switches can be asked on which port they hear a MAC address or an address; those of the fabric one looks at first. */
function asking(typed: string, fabrics: readonly string[], here: string | undefined) {
  if (typed === '' || soughtHost(typed).is === 'server') return [];
  return [...fabrics]
    .sort((a, b) => Number(b === here) - Number(a === here))
    .map((name) => ({
      words: `Ask the switches of ${name} where ${typed} is heard`,
      to: `/fabrics/${name}/ports?where=${encodeURIComponent(typed)}`,
    }));
}

/**
 * Ctrl-K: what can be done from anywhere, every page, and everything that has a name or a number, in every fabric, found
 * by the server.
 */
export function CommandPalette({
  isOpen,
  onClose,
  onKeys,
  onOut,
}: {
  readonly isOpen: boolean;
  readonly onClose: () => void;
  readonly onKeys: () => void;
  readonly onOut: () => void;
}) {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const user = api.useSessionQuery().data?.user ?? null;
  const skip = { skip: !isOpen };
  const { data: fabrics = [], isLoading: fabricsWait } = api.useFabricsQuery(undefined, skip);
  const { data: changes = [], isLoading: changesWait } = api.useChangesQuery(undefined, skip);
  const { data: rollouts = [], isLoading: rolloutsWait } = api.useRolloutsQuery(undefined, skip);
  const { data: day, isLoading: dayWaits } = watchApi.useDayQuery(undefined, skip);
  const here = fabricOfPath(useLocation().pathname) ?? fabrics[0]?.name;
  const [{ text, walked }, setState] = useState(UNTYPED);
  const typed = isOpen ? text.trim() : '';
  const finding = useFinding(typed, here ?? '');
  const waits = isOpen && (fabricsWait || changesWait || rolloutsWait || dayWaits || finding.waits);
  const doings = useDoings({ fabrics: fabrics.map((f) => f.name), here, onKeys, onOut });
  const close = (): void => {
    setState(UNTYPED);
    onClose();
  };
  const go = (to: string) => () => void navigate(to);
  const openChange = (id: string) => () => {
    dispatch(changeOpened(id));
    void navigate(`/changes/${id}`);
  };
  const few = <T,>(all: readonly T[], most: number): readonly T[] => all.slice(0, typed === '' ? MOST_UNTYPED : most);
  const groups: readonly { readonly heading: string; readonly entries: readonly Entry[] }[] = [
    {
      heading: 'Do',
      entries: [
        ...doings.map(({ words, act }) => ({ key: words, text: words, shown: words, act })),
        ...asking(
          typed,
          fabrics.map((f) => f.name),
          here,
        ).map(({ words, to }) => ({ key: words, text: `${typed} ${words}`, shown: words, act: go(to) })),
      ],
    },
    {
      heading: 'Wrong now',
      entries: few(day?.causes ?? [], 40).map((c) => ({
        key: `${c.fabric} ${c.key}`,
        text: `${c.title} ${c.fabric}`,
        shown: <Line name={c.title} about={c.fabric} />,
        act: go(`/watch?fabric=${c.fabric}`),
      })),
    },
    {
      heading: 'Go to',
      entries: [
        ...[...SECTIONS, ...pagesOfAccess(user)].map((s) => ({
          key: s.to,
          text: s.name,
          shown: s.name,
          act: go(s.to),
        })),
        ...fabrics.flatMap((f) =>
          FABRIC_PAGES.map((p) => {
            const name = `${f.name} › ${p === '' ? 'shape' : p}`;
            return { key: name, text: name, shown: name, act: go(`/fabrics/${f.name}/${p}`) };
          }),
        ),
      ],
    },
    {
      heading: 'Changes',
      entries: few(changes, 60).map((c) => ({
        key: c.id,
        text: `${c.title} ${c.ticket}`,
        shown: <Line name={c.title} about={c.state} />,
        act: openChange(c.id),
      })),
    },
    {
      heading: 'Rollouts',
      entries: few(rollouts, 40).map((r) => ({
        key: r.id,
        text: `rollout ${r.title}`,
        shown: <Line name={`Rollout of ${r.title}`} about={r.state} />,
        act: go(`/rollouts/${r.id}`),
      })),
    },
  ];
  const listed = new Set(changes.slice(0, 60).map((c) => c.id));
  const found = {
    heading: 'Found',
    entries: finding.found
      // A change that stands in the list above need not stand there twice.
      .filter(({ subject }) => !listed.has(subject.replace(/^change:/, '')))
      .map((f): Entry => {
        const { fabric, subject, word, name, why } = f;
        const of = fabric === '' || subject === 'fabric' ? '' : ` of ${fabric}`;
        return {
          key: `${fabric} ${subject}`,
          text: '',
          shown: <Line name={name} about={`${word}${of}${why === '' ? '' : ` · ${why}`}`} />,
          act: subject.startsWith('change:') ? openChange(subject.slice('change:'.length)) : go(foundLead(f)),
        };
      }),
  };
  const fits = groups.map(({ heading, entries }) => ({ heading, ...fitting(entries, soughtOf(typed)) }));
  if (typed !== '') fits.sort((a, b) => b.best - a.best);
  const isFirst = finding.isExact || fits.every((g) => g.best < SCORES.word);
  const shown = (isFirst && typed !== '' ? [found, ...fits] : [...fits, found]).filter((g) => g.entries.length > 0);
  const lines = shown.flatMap(({ heading, entries }) =>
    entries.map(({ key, act }) => ({ value: `${heading} ${key}`, act })),
  );
  const choice = useChoice({
    lines,
    waits,
    walked,
    onWalk: (value) => setState({ text, walked: value }),
    onTake: ({ act }) => {
      close();
      act();
    },
  });
  return (
    <>
      <PaletteStyle />
      <Command.Dialog
        open={isOpen}
        onOpenChange={(o) => !o && close()}
        label="Find or do anything"
        overlayClassName="palette-overlay"
        contentClassName="palette"
        shouldFilter={false}
        disablePointerSelection
        value={choice.value}
        onValueChange={choice.onValueChange}
        onKeyDown={choice.onKeyDown}
      >
        <Command.Input
          placeholder="Find or do anything …"
          value={text}
          onValueChange={(value) => setState({ text: value, walked: null })}
        />
        <Command.List ref={choice.list} onPointerMove={choice.onPointerMove}>
          {shown.length === 0 && (
            <p role="status">
              {waits ? 'Looking …' : finding.failed ? UNANSWERED : 'Nothing by that name, address or number.'}
            </p>
          )}
          {shown.map(({ heading, entries }) => (
            <Command.Group key={heading} heading={heading}>
              {entries.map(({ key, shown: line, act }) => (
                <Command.Item
                  key={key}
                  value={`${heading} ${key}`}
                  onSelect={() => {
                    close();
                    act();
                  }}
                >
                  {line}
                </Command.Item>
              ))}
            </Command.Group>
          ))}
          {typed !== '' && finding.failed && shown.length > 0 && <p role="status">{UNANSWERED}</p>}
          {typed !== '' && finding.behind.length > 0 && (
            <p role="status">What went live last in {finding.behind.join(', ')} is not in this yet.</p>
          )}
        </Command.List>
      </Command.Dialog>
    </>
  );
}
function Line({ name, about }: { readonly name: string; readonly about: string }) {
  return (
    <>
      {name} <small>{about}</small>
    </>
  );
}
/**
 * Which line is chosen: the first, until somebody walks. Names are fetched as the palette opens and as one types, and the
 * best of a part of them need not be the best of all; so Enter counts once all are there, unless something else is typed
 * before, or one walked to a line.
 */
function useChoice({ lines, waits, walked, onWalk, onTake }: Choosing) {
  const list = useRef<HTMLDivElement>(null);
  const walks = useRef(false);
  const entered = useRef(false);
  const went = lines.find((l) => l.value === walked);
  const chosen = went ?? lines[0];
  const enter = (): void => {
    entered.current = waits && !went;
    if (!entered.current && chosen) onTake(chosen);
  };
  useEffect(() => {
    if (!waits && entered.current) enter();
  });
  const first = lines[0]?.value;
  useEffect(() => {
    if (walked === null) list.current?.scrollTo({ top: 0 });
  }, [first, walked]);
  return {
    list,
    value: chosen?.value ?? '',
    // What the list chooses while a key is being heard, a person chose; by itself it chooses, too.
    onValueChange: (value: string): void => {
      if (walks.current) onWalk(value);
    },
    onKeyDown: (e: ReactKeyboardEvent): void => {
      entered.current = false;
      if (e.key === 'Enter' && !e.nativeEvent.isComposing) {
        e.preventDefault();
        enter();
        return;
      }
      walks.current = true;
      queueMicrotask(() => (walks.current = false));
    },
    onPointerMove: (e: ReactPointerEvent): void => {
      const value = (e.target as Element).closest('[cmdk-item]')?.getAttribute('data-value');
      if (value) onWalk(value);
    },
  };
}

const PaletteStyle = createGlobalStyle`
  .palette-overlay { position: fixed; inset: 0; background: ${token('shade')}; z-index: 20; }
  .palette { position: fixed; top: 12vh; left: 50%; transform: translateX(-50%); width: min(580px, calc(100vw - 32px)); z-index: 21; background: ${token('sheet')}; border: 1px solid ${token('rule')}; border-radius: 6px; box-shadow: 0 18px 60px ${token('shade')}; overflow: hidden; }
  .palette input { width: 100%; border: 0; border-bottom: 1px solid ${token('rule')}; background: none; padding: 13px 16px; font-size: 15px; }
  .palette [cmdk-list] { max-height: 420px; overflow: auto; padding: 6px; }
  .palette [cmdk-group-heading] { font: 600 11px ${sans}; letter-spacing: .09em; text-transform: uppercase; color: ${token('faded')}; padding: 8px 10px 4px; }
  .palette [cmdk-item] { padding: 6px 10px; border-radius: 3px; cursor: pointer; font-size: 13.5px; display: flex; justify-content: space-between; align-items: baseline; }
  .palette [cmdk-item][data-selected='true'] { background: ${token('verdigris-wash')}; }
  .palette [cmdk-item] small { color: ${token('faded')}; text-align: right; margin-left: 16px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .palette [cmdk-list] p { margin: 0; padding: 10px; font-size: 13px; color: ${token('faded')}; }
`;
