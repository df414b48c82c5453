import type { FabricAnswer, FabricRequest, TakeFileRequest, TakenFileAnswer } from '@anthemion/contract';
import { problem } from '@anthemion/core';
import { nanoid } from 'nanoid';
import { addChange } from '../store/changes.ts';
import { addFabric, dropFabric, fabricOf, fabricPage, fabricTwin, liveRevision, tiesOf } from '../store/fabrics.ts';
import type { Page, PageAsked, Sight } from '../store/pages.ts';
import { standingOf } from '../store/standing.ts';
import { notNow, refused } from '../trouble.ts';
import type { Changes, Hand } from './changes.ts';
import { at, type House } from './house.ts';

export async function fabricsPage(house: House, asked: PageAsked, sight: Sight): Promise<Page<FabricAnswer>> {
  const { items, next } = await fabricPage(house.db, asked, sight);
  return { items: await Promise.all(items.map((r) => standingOf(house.db, r))), next };
}

/** Begins a fabric together with the change that builds it. */
export async function beginFabric(
  house: House,
  request: FabricRequest,
  by: Hand,
): Promise<{ fabric: string; change: string }> {
  const { name, namePrefix } = request;
  const change = nanoid(10);
  await house.db.transaction().execute(async (tx) => {
    const twin = await fabricTwin(tx, name, namePrefix);
    if (twin?.name === name)
      throw refused([problem('fabric-new', '/name', `There is already a fabric ${name}.`, 'Choose another name.')]);
    if (twin)
      throw refused([
        problem(
          'fabric-new',
          '/namePrefix',
          `Prefix ${namePrefix} is ${twin.name}'s; switch names would clash.`,
          'Choose another prefix.',
        ),
      ]);
    await addFabric(tx, name, namePrefix, at(house));
    await addChange(
      tx,
      {
        id: change,
        fabric: name,
        title: request.title || `Build ${name}`,
        reason: '',
        ticket: '',
        author: by.name,
        base_revision: 0,
      },
      at(house),
    );
  });
  house.events.tell('fabrics', name);
  house.events.tell('changes', change, name);
  return { fabric: name, change };
}

/**
 * Forgets a fabric that never went live: its open changes go with it, and what they drew and seated is free again. One that
 * was live keeps its history; it is cleared instead.
 */
export async function removeFabric(house: House, name: string): Promise<void> {
  const { db, desks, events } = house;
  await desks.at(name, () =>
    db.transaction().execute(async (tx) => {
      await fabricOf(tx, name);
      if ((await liveRevision(tx, name)) > 0)
        throw notNow(
          `${name} has been live: its history stays. Clear it by a change to take everything off its switches.`,
        );
      const { rollouts, switches, bound } = await tiesOf(tx, name);
      if (rollouts > 0 || switches > 0)
        throw notNow(`Text of ${name} was rolled out to switches, so it cannot be forgotten.`);
      if (bound.length > 0)
        throw notNow(
          `${bound.join(', ')} ${bound.length === 1 ? 'is' : 'are'} bound to it, and would be to the next fabric of its name: take that away first.`,
        );
      await dropFabric(tx, name);
    }),
  );
  events.tell('fabrics', name);
  for (const topic of ['changes', 'pools', 'switches'] as const) events.tell(topic);
}

/** Opens a change that makes of a fabric what an intent file says. */
export async function takeFile(
  house: House,
  changes: Changes,
  fabric: string,
  { text, title }: TakeFileRequest,
  by: Hand,
): Promise<TakenFileAnswer> {
  const taken = await house.compiler.run<'take file'>({ do: 'take file', fabric, text });
  if ('findings' in taken) throw refused([...taken.findings]);
  const said = title === '' ? `${fabric} as its file says` : title;
  const change = await changes.open({ fabric, title: said, reason: '', ticket: '' }, by, taken.edits);
  return { change, edits: taken.sentences };
}

/** Opens a change that returns a fabric to an earlier revision. */
export async function returnTo(
  house: House,
  changes: Changes,
  fabric: string,
  revision: number,
  by: Hand,
): Promise<string> {
  if (revision === (await liveRevision(house.db, fabric)))
    throw refused([
      problem('revision-other', '/revision', `Revision ${revision} is the live one.`, 'Choose an earlier revision.'),
    ]);
  const edits = await house.compiler.run<'return'>({ do: 'return', fabric, revision });
  return changes.open(
    {
      fabric,
      title: `Return to revision ${revision}`,
      reason: `Undo what came after revision ${revision}`,
      ticket: '',
    },
    by,
    edits,
  );
}
