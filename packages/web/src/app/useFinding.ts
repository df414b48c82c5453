import type { FoundAnswer } from '@anthemion/contract';
import { bestOf, findablesOf, soughtOf, type FabricIntent } from '@anthemion/core';
import { useEffect, useMemo, useState } from 'react';
import { api } from './api.ts';
import { layoutOf } from './layoutOf.ts';
import { useChangeOf } from './useEdits.ts';

/** So long nothing more is typed before it is looked for, milliseconds. */
const TYPING_MS = 120;
const MOST = 40;
const NONE: readonly FoundAnswer[] = [];

/** What is found by what somebody types. */
export interface Finding {
  /** Best first. */
  readonly found: readonly FoundAnswer[];
  /** Does the best say or bear just what was typed? */
  readonly isExact: boolean;
  readonly waits: boolean;
  /** Why it could not be looked for. */
  readonly failed: boolean;
  /** Fabrics of which what went live last is not in it yet. */
  readonly behind: readonly string[];
}

/**
 * Looks for objects of all fabrics on the server, and in what the open change would make of the fabric one looks at.
 * @param text what was typed; empty = nothing is looked for
 */
export function useFinding(text: string, near: string): Finding {
  const whole = soughtOf(text).whole;
  const asked = useSettled(whole);
  const { currentData, data, isFetching, isError } = api.useFindQuery({ q: asked, near }, { skip: asked === '' });
  const change = useChangeOf(near);
  const { currentData: meant } = api.useFabricQuery({ name: near, change }, { skip: change === null || whole === '' });
  const here = useMemo(() => (meant ? rowsOf(meant.intent, meant.values) : []), [meant]);
  // Until the answer is there, the last one stays; nothing of it is taken by Enter.
  const known = (whole === '' ? null : (currentData ?? data)) ?? { found: NONE, behind: [] };
  const found = useMemo(() => {
    const own = bestOf(here, soughtOf(whole), { most: MOST });
    const both = [
      ...known.found,
      ...own.filter((o) => !known.found.some((f) => f.fabric === o.fabric && f.subject === o.subject)),
    ];
    return own.length === 0 ? known.found : bestFirst(both, own);
  }, [known.found, here, whole]);
  const [best] = found;
  return {
    found,
    isExact: best !== undefined && isExactly(best, whole),
    waits: whole !== '' && (whole !== asked || isFetching || (change !== null && !meant)),
    failed: isError && !isFetching,
    behind: known.behind,
  };
}

const isExactly = ({ word, name, why }: FoundAnswer, whole: string): boolean =>
  [name, `${word} ${name}`, why].some((t) => t.toLowerCase() === whole) || why.toLowerCase().endsWith(` ${whole}`);

/** Those that only the open change has stand where they would stand if it were live: exact ones in front. */
function bestFirst(
  all: readonly FoundAnswer[],
  own: readonly (FoundAnswer & { readonly rank: number })[],
): FoundAnswer[] {
  const exact = new Set<FoundAnswer>(own.filter((o) => o.rank <= 1));
  return [...all.filter((f) => exact.has(f)), ...all.filter((f) => !exact.has(f))].slice(0, MOST);
}

const rowsOf = (intent: FabricIntent, values: Readonly<Record<string, string>>) =>
  findablesOf(intent, layoutOf(intent), new Map(Object.entries(values))).map((f) => ({ ...f, fabric: intent.name }));

/** A value once it has not changed for a moment. */
function useSettled(value: string): string {
  const [settled, settle] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => settle(value), TYPING_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}
