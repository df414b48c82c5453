import { around, placeKey, type Place } from '../config/switchConfig.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { lineIndex, type WrittenText } from '../proof/placeFindings.ts';
import { missingDoubt } from '../network/uncertain.ts';
import { callersDoubt } from '../network/callers.ts';
import { familyOf, formatAny, hostPrefix, parseAnyPrefix } from '../numbers/prefix.ts';
import type { Answer, Because, RouteAnswer } from './answer.ts';
import { networkDifferences } from './differences.ts';
import type { DifferenceRow } from './answer.ts';
import { carriersOf, hearersOf } from './hearers.ts';
import { evpnOf } from './evpnOf.ts';
import { journeys } from './journeys.ts';
import type { Question } from './question.ts';
import { routesOf } from './routesOf.ts';

/** Rows of an answer that people look through; more are counted. */
const MOST_ROWS = 500;
/** What differs, as an answer. */
export const differing = (rows: readonly DifferenceRow[]): Answer => ({
  ask: 'differs',
  total: rows.length,
  rows: rows.slice(0, MOST_ROWS),
});

/** Why there may be routes beside those that a question has for its answer; null = there are none. */
function missingIn(
  model: NetworkModel,
  { host, vrf, to }: Extract<Question, { ask: 'routes' }>,
  routes: readonly RouteAnswer[],
): string | null {
  const address = to === undefined ? null : hostPrefix(to);
  // None leads there more closely than one to just that address.
  if (address !== null && routes[0]?.prefix === formatAny(address)) return null;
  const families = address === null ? ([4, 6] as const) : [familyOf(address)];
  const nearest = routes[0] === undefined ? null : parseAnyPrefix(routes[0].prefix);
  return (
    (address && callersDoubt(model, { host, vrf }, address, nearest)) ??
    families.map((f) => missingDoubt(model, { host, vrf }, f, address ?? undefined)).find((d) => d !== null) ??
    null
  );
}

/**
 * Answers a question from a model; a string says why it cannot be answered.
 * @param before what it was before, for questions about that
 */
export function ask(model: NetworkModel, question: Question, before: NetworkModel = model): Answer | string {
  switch (question.ask) {
    case 'differs':
      return differing(networkDifferences(before, model));
    case 'routes': {
      const routes = routesOf(model, question.host, question.vrf, question.to);
      if (typeof routes === 'string') return routes;
      return { ask: 'routes', routes, missing: missingIn(model, question, routes) };
    }
    case 'evpn': {
      const found = evpnOf(model, question.host, question.type, MOST_ROWS);
      return typeof found === 'string' ? found : { ask: 'evpn', ...found };
    }
    case 'reach': {
      const { ask: _ask, from, to, protocol = 'icmp', ...more } = question;
      const found = journeys(model, from, to, { protocol, ...more });
      return typeof found === 'string' ? found : { ask: 'reach', ...found };
    }
    case 'prefix': {
      const hearings = hearersOf(model, question.prefix);
      return typeof hearings === 'string' ? hearings : { ask: 'prefix', hearings };
    }
    case 'vni': {
      const hearings = carriersOf(model, question.vni);
      return typeof hearings === 'string' ? hearings : { ask: 'vni', hearings };
    }
  }
}

/** Gives every link of the chains of why the line it stands on, by reading again the texts of just those switches. */
export function withLines(answer: Answer, textOf: (host: string) => WrittenText | undefined): Answer {
  const indexes = new Map<string, ReturnType<typeof lineIndex> | null>();
  const lined = (b: Because): Because => {
    let index = indexes.get(b.host);
    if (index === undefined) {
      const text = textOf(b.host);
      indexes.set(b.host, (index = text ? lineIndex(text) : null));
    }
    for (let place = b.configPlace as Place | undefined; index && place && place.length > 0; place = around(place)) {
      const spot = index.get(placeKey(place));
      if (spot) return { ...b, place: { host: b.host, ...spot } };
    }
    return b;
  };
  switch (answer.ask) {
    case 'differs':
      return answer;
    case 'evpn':
      return { ...answer, routes: answer.routes.map((r) => ({ ...r, because: r.because.map(lined) })) };
    case 'routes':
      return { ...answer, routes: answer.routes.map((r) => ({ ...r, because: r.because.map(lined) })) };
    case 'reach': {
      const ways = answer.ways.map((w) => ({
        ...w,
        hops: w.hops.map((h) => ({ ...h, because: h.because.map(lined) })),
      }));
      return { ...answer, ways };
    }
    default: {
      const hearings = answer.hearings.map((h) => ({
        ...h,
        deafTo: h.deafTo.map((d) => ({ ...d, because: lined(d.because) })),
      }));
      return { ...answer, hearings };
    }
  }
}
