import type { PartsAnswer } from '@anthemion/contract';
import { checkModel, type SwitchModel } from '@anthemion/core';
import { allParts, dropPart, putPart, type PartKind } from '../store/parts.ts';
import { countOfModel } from '../store/switches.ts';
import { notNow, notThere, refused } from '../trouble.ts';
import type { House } from './house.ts';

const WORDS: Readonly<Record<PartKind, string>> = {
  model: 'switch model',
  rack: 'rack pattern',
  fabric: 'fabric pattern',
};

/** Patterns that name a part: `rack pattern pair-48`. Fabrics that were laid have their own copies of what they are made of. */
function usersOf({ rackPatterns, fabricPatterns }: PartsAnswer, kind: PartKind, name: string): string[] {
  if (kind === 'fabric') return [];
  const racks = kind === 'model' ? rackPatterns.filter((r) => r.leafModel === name) : [];
  const fabrics = fabricPatterns.filter(({ spines, superSpines, racks: made }) =>
    kind === 'rack'
      ? made.some((r) => r.pattern === name)
      : [spines, superSpines].some((t) => t?.model === name || t?.others?.some((o) => o.model === name)),
  );
  return [...racks.map((r) => `rack pattern ${r.name}`), ...fabrics.map((f) => `fabric pattern ${f.name}`)];
}

export async function keepModel({ db, events }: House, model: SwitchModel): Promise<void> {
  const findings = checkModel(model);
  if (findings.length > 0) throw refused(findings);
  await putPart(db, 'model', model);
  events.tell('parts', model.name);
}

/** Takes a part away that nothing names; fabrics that were laid from it keep what they have. */
export async function removePart({ db, events }: House, kind: PartKind, name: string): Promise<void> {
  await db.transaction().execute(async (tx) => {
    const parts = await allParts(tx);
    const of = { model: parts.models, rack: parts.rackPatterns, fabric: parts.fabricPatterns }[kind];
    if (!of.some((p) => p.name === name)) throw notThere(`${WORDS[kind]} ${name}`);
    const users = usersOf(parts, kind, name);
    if (users.length > 0)
      throw notNow(
        `${name} is used by ${users.join(', ')}; change or remove ${users.length === 1 ? 'it' : 'them'} first.`,
      );
    const switches = kind === 'model' ? await countOfModel(tx, name) : 0;
    if (switches > 0)
      throw notNow(
        `${switches === 1 ? 'A known switch is' : `${switches} known switches are`} of model ${name}; remove ${switches === 1 ? 'it' : 'them'} first.`,
      );
    await dropPart(tx, kind, name);
  });
  events.tell('parts', name);
}
