import type { HostKeysRequest, SwitchPatch } from '@anthemion/contract';
import { problem, type Finding } from '@anthemion/core';
import { SwitchTrouble, type Identity } from '../reach/driver.ts';
import type { Reach } from '../reach/reach.ts';
import { allParts } from '../store/parts.ts';
import { unfinishedIn } from '../store/rollouts.ts';
import { dropLive, holdersOf, leftoverOf } from '../store/seats.ts';
import { switchAccountOf, switchAccounts } from '../store/switchAccounts.ts';
import { addSwitches, dropSwitch, knownOf, noteSwitch, switchOf } from '../store/switches.ts';
import { notNow, notThere, refused, Trouble } from '../trouble.ts';
import { endRestIfNoneWaits } from './goingLive.ts';
import { at, type House } from './house.ts';
import { addressTrouble, keyAsKept, readSwitchList } from './switchList.ts';

/** Takes a list of switches into the inventory: every line, or none and the reasons by line and column. */
export async function importSwitches(house: House, csv: string): Promise<number> {
  const count = await house.db.transaction().execute(async (tx) => {
    const { rows, findings } = readSwitchList(
      csv,
      (await allParts(tx)).models,
      (await switchAccounts(tx)).map((a) => a.name),
    );
    const known = await knownOf(
      tx,
      rows.map((r) => r.serial),
    );
    const twice = rows.flatMap((r, i) =>
      known.has(r.serial)
        ? [
            problem(
              'csv-line',
              `/csv/${i + 2}/serial`,
              `Line ${i + 2}, serial: ${r.serial} is known already.`,
              'Take the line out.',
            ),
          ]
        : [],
    );
    if (findings.length + twice.length > 0) throw refused([...findings, ...twice]);
    await addSwitches(tx, rows);
    return rows.length;
  });
  house.events.tell('switches');
  return count;
}

/**
 * A switch answers elsewhere, or with another account. Its accepted key stays: what answers at the new address must show it,
 * or have its own accepted by name.
 */
export async function patchSwitch(house: House, serial: string, to: SwitchPatch): Promise<void> {
  const findings: Finding[] = [];
  const trouble = addressTrouble(to.address);
  if (trouble) findings.push(problem('switch-address', '/address', trouble, 'Write the management address.'));
  if (to.account !== null && !(await switchAccountOf(house.db, to.account)))
    findings.push(
      problem('switch-account', '/account', `There is no switch account ${to.account}.`, 'Choose one of the list.'),
    );
  if (findings.length > 0) throw refused(findings);
  if (!(await switchOf(house.db, serial))) throw notThere(`switch ${serial}`);
  const { address, port, location, account } = to;
  await noteSwitch(house.db, serial, { address, port, location, account, seen_key: null, refused: 0 });
  house.events.tell('switches', serial);
}

/** Accepts host keys by name: each must be the one that the switch was seen to show, as the operator was shown it. */
export async function acceptHostKeys(house: House, accept: HostKeysRequest['accept']): Promise<{ accepted: number }> {
  await house.db.transaction().execute(async (tx) => {
    const findings: Finding[] = [];
    for (const [i, { serial, key }] of accept.entries()) {
      const row = await switchOf(tx, serial);
      const kept = keyAsKept(key);
      if (!row)
        findings.push(problem('host-key', `/accept/${i}/serial`, `There is no switch ${serial}.`, 'Take it out.'));
      else if (row.seen_key !== kept)
        findings.push(
          problem(
            'host-key',
            `/accept/${i}/key`,
            row.seen_key === null
              ? `${serial} has not shown a key that waits to be accepted.`
              : `${serial} has shown another key since: SHA256:${row.seen_key}.`,
            'Read the switch, compare the key with what its console says, and accept that one.',
          ),
        );
      else await noteSwitch(tx, serial, { host_key: kept, seen_key: null, trouble: null });
    }
    if (findings.length > 0) throw refused(findings);
  });
  for (const { serial } of accept) house.events.tell('switches', serial);
  return { accepted: accept.length };
}

/** What a person asks of one switch; why it cannot be talked to comes back as such. */
async function asking<T>(house: House, serial: string, work: () => Promise<T>): Promise<T> {
  if (!(await switchOf(house.db, serial))) throw notThere(`switch ${serial}`);
  try {
    return await work();
  } catch (error) {
    if (error instanceof SwitchTrouble) throw new Trouble('no answer', error.message);
    throw error;
  } finally {
    house.events.tell('switches', serial);
  }
}

export const readSwitch = (house: House, reach: Reach, serial: string): Promise<Identity> =>
  asking(house, serial, async () => (await reach.read(serial)).identity);

/** Gives up an apply that can neither be confirmed nor taken back, so that the switch takes another one. */
export const releaseSwitch = (house: House, reach: Reach, serial: string, reason: string, by: string): Promise<void> =>
  asking(house, serial, async () => {
    const done = await reach.on(serial, async (d) => {
      const { id, state } = await d.status();
      if (!['loading', 'pending', 'undoing', 'stuck'].includes(state))
        throw notNow(`There is nothing to release: the last apply is ${state}.`);
      return d.release(id, `${by}: ${reason}`);
    });
    if (!done.ok) throw new Trouble('no answer', done.text);
  });

/**
 * A switch that left its fabric and will not be cleared any more (dead, sold): nothing waits for it, and what rested for it
 * goes back to the pools.
 */
export async function forgetSwitch(house: House, serial: string, reason: string, by: string): Promise<void> {
  const { db, desks, events, log } = house;
  if (!(await switchOf(db, serial))) throw notThere(`switch ${serial}`);
  const fabric = await leftoverOf(db, serial);
  if (fabric === null) throw notNow(`${serial} is not left over from any fabric; nothing waits for it.`);
  await desks.at(fabric, () =>
    db.transaction().execute(async (tx) => {
      if ((await leftoverOf(tx, serial)) !== fabric) throw notNow(`${serial} is not left over any more.`);
      const unfinished = (await unfinishedIn(tx, fabric))[0];
      if (unfinished) throw notNow(`Rollout ${unfinished.id} of ${fabric} is ${unfinished.state}; finish it first.`);
      await dropLive(tx, serial);
      await endRestIfNoneWaits(tx, fabric);
    }),
  );
  log.warn({ serial, fabric, by, reason }, 'a switch was forgotten');
  events.tell('switches', serial);
  events.tell('fabrics', fabric);
}

/** Takes a switch out of the inventory: one that nobody wants, and that runs nothing of ours. */
export async function removeSwitch(house: House, reach: Reach, serial: string): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    if (!(await switchOf(tx, serial))) throw notThere(`switch ${serial}`);
    const [holder] = await holdersOf(tx, [serial]);
    if (holder)
      throw notNow(
        holder.change === null
          ? `${serial} sits in seat ${holder.seat} of ${holder.fabric}; leave that seat empty first.`
          : `An open change of ${holder.fabric} seats ${serial}; undo that first.`,
      );
    const leftover = await leftoverOf(tx, serial);
    if (leftover !== null)
      throw notNow(`${serial} still runs what ${leftover} gave it; send what waits there, or forget it, first.`);
    await dropSwitch(tx, serial);
  });
  reach.hangUp(serial);
  house.events.tell('switches', serial);
}

/** Takes a switch out of service: it is not read and nothing of it is judged, until it is taken back. */
export async function takeOut(house: House, serial: string, reason: string, by: string): Promise<void> {
  const row = await switchOf(house.db, serial);
  if (!row) throw notThere(`switch ${serial}`);
  if (row.out_at !== null) throw notNow(`${serial} is out of service already, since ${row.out_at}.`);
  await noteSwitch(house.db, serial, { out_at: at(house), out_by: by, out_reason: reason });
  await tellSwitch(house, serial);
}
export async function takeBackIn(house: House, serial: string): Promise<void> {
  const row = await switchOf(house.db, serial);
  if (!row) throw notThere(`switch ${serial}`);
  if (row.out_at === null) throw notNow(`${serial} is in service.`);
  await noteSwitch(house.db, serial, { out_at: null, out_by: null, out_reason: null, refused: 0 });
  await tellSwitch(house, serial);
}

async function tellSwitch(house: House, serial: string): Promise<void> {
  const holder = (await holdersOf(house.db, [serial])).find((h) => h.change === null);
  house.events.tell('switches', serial, holder?.fabric);
}
