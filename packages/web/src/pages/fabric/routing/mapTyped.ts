import type { RouteMapEntrySaid, RouteMapSaid } from '@anthemion/core';
import { saidOf } from '../../../parts/said.ts';

type Num = number | string;
/** An entry of a route map while it is typed: what is empty says nothing. */
export interface TypedEntry {
  readonly seq: Num;
  readonly way: 'permit' | 'deny';
  readonly match: {
    readonly prefixes: string;
    readonly communities: string;
    readonly exactly: boolean;
    readonly path: string;
    readonly origin: string;
    readonly metric: Num;
    readonly localPreference: Num;
    readonly tag: Num;
    readonly peer: string;
    readonly nextHops: string;
  };
  readonly set: {
    readonly localPreference: Num;
    readonly metric: Num;
    readonly metricBy: Num;
    readonly weight: Num;
    readonly origin: string;
    /** Numbers with blanks between them. */
    readonly prepend: string;
    readonly prependFirst: Num;
    /** Numbers with blanks between them. */
    readonly exclude: string;
    readonly communities: string;
    readonly how: 'replace' | 'add' | 'none';
    readonly withoutCommunities: string;
    readonly bandwidth: Num;
    readonly nextHop: string;
  };
  readonly call: string;
  readonly next: boolean;
  readonly goTo: Num;
}
export interface TypedMap {
  readonly name: string;
  readonly entries: readonly TypedEntry[];
}

/** What stands in an empty field. */
const shown = <T>(value: T | undefined): T | '' => value ?? '';

export function typedEntry(e: RouteMapEntrySaid): TypedEntry {
  const { match = {}, set = {} } = e;
  return {
    seq: e.seq,
    way: e.permit ? 'permit' : 'deny',
    match: {
      prefixes: shown(match.prefixes),
      communities: shown(match.communities),
      exactly: match.exactly === true,
      path: shown(match.path),
      origin: shown(match.origin),
      metric: shown(match.metric),
      localPreference: shown(match.localPreference),
      tag: shown(match.tag),
      peer: shown(match.peer),
      nextHops: shown(match.nextHops),
    },
    set: {
      localPreference: shown(set.localPreference),
      metric: shown(set.metric),
      metricBy: shown(set.metricBy),
      weight: shown(set.weight),
      origin: shown(set.origin),
      prepend: (set.prepend ?? []).join(' '),
      prependFirst: shown(set.prependFirst),
      exclude: (set.exclude ?? []).join(' '),
      communities: (set.communities ?? []).join(' '),
      how: set.communities?.length === 0 ? 'none' : set.additive ? 'add' : 'replace',
      withoutCommunities: shown(set.withoutCommunities),
      bandwidth: shown(set.bandwidth),
      nextHop: shown(set.nextHop),
    },
    call: shown(e.call),
    next: e.next === true,
    goTo: shown(e.goTo),
  };
}

const wordsOf = (text: string): string[] => text.split(/[\s,]+/).filter((w) => w !== '');
/** As a number where it is one; what is none is left for the schema to refuse. */
const numeric = (text: string): unknown => (/^\d{1,10}$/.test(text) ? Number(text) : text);

function setOf({ communities, how, prepend, exclude, ...plain }: TypedEntry['set']): Record<string, unknown> {
  const words = wordsOf(communities);
  return {
    ...saidOf({
      ...plain,
      prepend: wordsOf(prepend).map(numeric),
      exclude: wordsOf(exclude).map(numeric),
      ...(how === 'none' ? {} : { communities: words, additive: how === 'add' && words.length > 0 }),
    }),
    ...(how === 'none' ? { communities: [] } : {}),
  };
}

/** The route map that is typed; an entry that denies does nothing else. */
export const mapOf = ({ name, entries }: TypedMap): RouteMapSaid => ({
  is: 'route-map',
  name,
  entries: entries.map(({ seq, way, match, set, ...goes }) => {
    const permit = way === 'permit';
    const parts = { match: saidOf(match), ...(permit ? { set: setOf(set), ...saidOf(goes) } : {}) };
    const full = Object.entries(parts).filter(([, part]) => typeof part !== 'object' || Object.keys(part).length > 0);
    return { seq, permit, ...Object.fromEntries(full) } as RouteMapEntrySaid;
  }),
});
