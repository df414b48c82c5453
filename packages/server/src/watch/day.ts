import {
  holds,
  sees,
  sightOf,
  type DayAnswer,
  type DayEvent,
  type User,
  type WaitingChange,
} from '@anthemion/contract';
import { couldApprove } from '../services/approving.ts';
import { at, type House } from '../services/house.ts';
import { changeOf, openChanges } from '../store/changes.ts';
import { fabricPage } from '../store/fabrics.ts';
import { standingsOf } from '../store/live.ts';
import { unfinishedIn } from '../store/rollouts.ts';
import { happenings, noteVisit, type Happening } from '../store/visits.ts';
import { countHealth, type Live } from './live.ts';

const FABRICS = 200;
const HAPPENINGS = 200;
const SHOWN = 12;

/** The day sheet of one person: what is wrong now, what waits for them, what runs, what came in since they were here. */
export async function dayOf(house: House, live: Live, user: User): Promise<DayAnswer> {
  const { db } = house;
  const now = at(house);
  const { items } = await fabricPage(db, { limit: FABRICS, after: null }, sightOf(user));
  const before = await noteVisit(db, user.name, now);
  const causes: DayAnswer['causes'][number][] = [];
  const fabrics: DayAnswer['fabrics'][number][] = [];
  const unfinished: DayAnswer['unfinished'][number][] = [];
  for (const f of items) {
    const stands = f.revision === 0 ? null : await live.of(f.name);
    if (stands) causes.push(...stands.causes);
    fabrics.push({
      name: f.name,
      revision: f.revision,
      leaves: f.figures.leaves,
      spines: f.figures.spines,
      superSpines: f.figures.superSpines,
      counts: countHealth(stands ?? { seats: [] }),
      drained: (stands?.drained ?? []).flatMap(({ host, asks }) =>
        stands!.seats.flatMap(({ seat, host: h }) => (h === host ? { seat, host, asks } : [])),
      ),
      readAt: stands?.readAt ?? null,
      standings: await standingsOf(db, f.name, now),
    });
    for (const r of await unfinishedIn(db, f.name))
      unfinished.push({
        id: r.id,
        title: (await changeOf(db, r.change_id)).title,
        fabric: f.name,
        state: r.state,
        reason: r.reason,
      });
  }
  return {
    causes,
    fabrics,
    waits: await waitsFor(house, user),
    unfinished,
    before,
    since: before === null ? [] : await cameIn(house, user, before),
  };
}

/** Open changes that wait for somebody: for their yes, for them to roll out, or for them to go on with what is theirs. */
export async function waitsFor(house: House, user: User): Promise<WaitingChange[]> {
  const out: WaitingChange[] = [];
  for (const change of await openChanges(house.db, sightOf(user))) {
    const { fabric, state, author } = change;
    const mine = author === user.name;
    if (
      change.asked !== null &&
      holds(user, 'approver', fabric) &&
      (await couldApprove(house, change.id, author, user.name))
    )
      out.push({ change, why: 'asks your yes' });
    else if (state === 'Approved' && holds(user, 'operator', fabric)) out.push({ change, why: 'may be rolled out' });
    else if (mine && state === 'Stale')
      out.push({
        change,
        why: (await changeOf(house.db, change.id)).conflicts === '[]' ? 'is stale' : 'has conflicts',
      });
    else if (mine && (state === 'Drafting' || state === 'Proven')) out.push({ change, why: 'is yours' });
  }
  const order = ['asks your yes', 'may be rolled out', 'has conflicts', 'is stale', 'is yours'];
  return out.sort((a, b) => order.indexOf(a.why) - order.indexOf(b.why));
}

async function cameIn(house: House, user: User, before: string): Promise<DayEvent[]> {
  const seen = (await happenings(house.db, before, HAPPENINGS)).filter(
    (h) => sees(user, h.fabric) && !(h.by === user.name && h.what !== 'rollout'),
  );
  return seen.slice(0, SHOWN).map((h) => ({ at: h.at, text: inWords(h), to: linkOf(h) }));
}

const ROLLOUT_WORDS: Readonly<Record<string, string>> = {
  send: 'rollout',
  undo: 'undo',
  'catch up': 'catching up',
  'put back': 'putting back',
};

function inWords(h: Happening): string {
  switch (h.what) {
    case 'live':
      return `“${h.title}” went live as revision ${h.more} of ${h.fabric}`;
    case 'approved':
      return `${h.by} approved “${h.title}”`;
    case 'rollout': {
      const cut = h.more.lastIndexOf(' ');
      const kind = ROLLOUT_WORDS[h.more.slice(0, cut)] ?? 'rollout';
      const of = /^(send|undo) /.test(h.more) ? `of “${h.title}”` : `on ${h.fabric}`;
      return `${kind} ${of}: ${h.more.slice(cut + 1)}`;
    }
    case 'began':
      return h.title;
    case 'ended':
      return `mended: ${h.title}`;
    case 'asked':
      return `${h.by} asks for a yes to “${h.title}”`;
  }
}

const linkOf = (h: Happening): string =>
  h.what === 'rollout'
    ? `/rollouts/${h.id}`
    : h.what === 'began' || h.what === 'ended'
      ? `/watch?fabric=${h.fabric}`
      : `/changes/${h.id}`;
