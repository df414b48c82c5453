import type { ChangeState } from '@anthemion/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { BO, INES, networkEdit, serialOf, SmallHouse } from '../testing/smallHouse.ts';
import { Trouble } from '../trouble.ts';
import { approve } from './approving.ts';

let small: SmallHouse;
let vlan = 200;
beforeAll(async () => {
  small = await (await new SmallHouse(['tarn']).open()).build();
});
afterAll(() => small.close());

/** Brings a change into each state of its life, by the way a person would. */
const inState: Record<ChangeState, () => Promise<string>> = {
  Drafting: () => small.propose('tarn', 'Drafting'),
  Proven: () => small.propose('tarn', 'Proven', networkEdit(`net-${vlan}`, vlan++)),
  Approved: async () => {
    const id = await inState.Proven();
    await small.approve(id);
    return id;
  },
  'Rolling out': async () => {
    const id = await inState.Approved();
    const leaf = small.fleet.at(serialOf('tarn', 'leaf-1'));
    leaf.faults.add('refuses');
    await small.rest(await small.begin(id));
    leaf.faults.clear();
    return id;
  },
  Live: async () => {
    const id = await inState.Approved();
    await small.rest(await small.begin(id));
    return id;
  },
  Withdrawn: async () => {
    const id = await inState.Proven();
    await small.changes.withdraw(id, await small.version(id));
    return id;
  },
  Stale: async () => {
    const id = await inState.Proven();
    await inState.Live();
    return id;
  },
};
const DOINGS = {
  edit: (id: string) => small.changes.addEdits(id, [networkEdit(`net-${vlan}`, vlan++)], INES),
  undo: async (id: string) => small.changes.undoEdit(id, 1, INES, await small.version(id)),
  retitle: async (id: string) =>
    small.changes.retitle(id, { title: 'Other', reason: '', ticket: '' }, INES, await small.version(id)),
  prove: (id: string) => small.changes.prove(id),
  approve: async (id: string) => approve(small.house, id, BO, '', await small.version(id)),
  begin: async (id: string) => void (await small.rest(await small.begin(id))),
  withdraw: async (id: string) => small.changes.withdraw(id, await small.version(id)),
};
type Doing = keyof typeof DOINGS;
const NO = null;
/** State after each doing; null = refused, and nothing has changed. */
const LIFE: Record<ChangeState, Record<Doing, ChangeState | null>> = {
  Drafting: {
    edit: 'Proven',
    undo: NO,
    retitle: 'Drafting',
    prove: 'Drafting',
    approve: NO,
    begin: NO,
    withdraw: 'Withdrawn',
  },
  Proven: {
    edit: 'Proven',
    undo: 'Drafting',
    retitle: 'Proven',
    prove: 'Proven',
    approve: 'Approved',
    begin: NO,
    withdraw: 'Withdrawn',
  },
  Approved: {
    edit: 'Proven',
    undo: 'Drafting',
    retitle: 'Proven',
    prove: 'Approved',
    approve: NO,
    begin: 'Live',
    withdraw: 'Withdrawn',
  },
  'Rolling out': { edit: NO, undo: NO, retitle: NO, prove: NO, approve: NO, begin: NO, withdraw: NO },
  Live: { edit: NO, undo: NO, retitle: NO, prove: NO, approve: NO, begin: NO, withdraw: NO },
  Withdrawn: { edit: NO, undo: NO, retitle: NO, prove: NO, approve: NO, begin: NO, withdraw: NO },
  Stale: {
    edit: 'Proven',
    undo: 'Drafting',
    retitle: 'Stale',
    prove: 'Proven',
    approve: NO,
    begin: NO,
    withdraw: 'Withdrawn',
  },
};

describe('the state machine of a change', () => {
  const cases = (Object.keys(LIFE) as ChangeState[]).flatMap((from) =>
    (Object.keys(DOINGS) as Doing[]).map((doing) => [from, doing, LIFE[from][doing]] as const),
  );
  test.each(cases)('%s, %s → %s', async (from, doing, to) => {
    const id = await inState[from]();
    expect(await small.stateOf(id)).toBe(from);
    const before = await small.changes.answer(id);
    const done = await DOINGS[doing](id).then(
      () => true,
      (error: unknown) => {
        if (error instanceof Trouble) return false;
        throw error;
      },
    );
    expect([done, await small.stateOf(id)]).toEqual([to !== null, to ?? from]);
    const after = await small.changes.answer(id);
    if (to === null) expect(after).toEqual(before);
    // Approvals are of a version: none is left of an older one.
    if (to !== 'Approved' && to !== 'Live' && to !== null && to !== 'Withdrawn') expect(after.approvals).toEqual([]);
    // Away with what is open, so that the next case begins alone.
    const rollout = after.rollout ?? before.rollout;
    if ((await small.stateOf(id)) === 'Rolling out') await small.rest(await small.rollouts.undo(rollout!, 'tamar'));
    if (!['Live', 'Withdrawn'].includes(await small.stateOf(id)))
      await small.changes.withdraw(id, await small.version(id));
  });
});
