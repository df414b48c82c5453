import type { Finding } from '../../finding.ts';
import { addNetwork } from './addNetwork.ts';
import { addRack } from './addRack.ts';
import { addVrf } from './addVrf.ts';
import { carryNetwork } from './carryNetwork.ts';
import { changeNetwork } from './changeNetwork.ts';
import { changeOutside } from './changeOutside.ts';
import { changeServer } from './changeServer.ts';
import { changeSettings } from './changeSettings.ts';
import { changeVrf } from './changeVrf.ts';
import { choosePools } from './choosePools.ts';
import { clearFabric } from './clearFabric.ts';
import { clearSeat } from './clearSeat.ts';
import { connectServer } from './connectServer.ts';
import { disconnectServer } from './disconnectServer.ts';
import { joinOutside } from './joinOutside.ts';
import { layFabric } from './layFabric.ts';
import { leaveOutside } from './leaveOutside.ts';
import { placeRack } from './placeRack.ts';
import { putNeighbour } from './putNeighbour.ts';
import { putPolicy } from './putPolicy.ts';
import { putLeak } from './putLeak.ts';
import { putRoute } from './putRoute.ts';
import { putSpeakers } from './putSpeakers.ts';
import { putModel } from './putModel.ts';
import { putRackPattern } from './putRackPattern.ts';
import { putSecret } from './putSecret.ts';
import { putSnippet } from './putSnippet.ts';
import { removeNeighbour } from './removeNeighbour.ts';
import { removePolicy } from './removePolicy.ts';
import { removeLeak } from './removeLeak.ts';
import { removeRoute } from './removeRoute.ts';
import { removeModel } from './removeModel.ts';
import { removeNetwork } from './removeNetwork.ts';
import { removeRack } from './removeRack.ts';
import { removeRackPattern } from './removeRackPattern.ts';
import { removeSecret } from './removeSecret.ts';
import { putWaiver } from './putWaiver.ts';
import { removeWaiver } from './removeWaiver.ts';
import { removeSnippet } from './removeSnippet.ts';
import { removeSpeakers } from './removeSpeakers.ts';
import { removeVrf } from './removeVrf.ts';
import { setSpines } from './setSpines.ts';
import { bringBack, drainSeat } from './drainSeat.ts';
import { openLink, shutLink } from './shutLink.ts';
import { withoutStrays } from './strays.ts';
import { takeSeat } from './takeSeat.ts';
import { lazy, type AnySchema, type ObjectSchema } from 'yup';
import type { Subject } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import { editFields, type Applied, type EditKindOf } from './edit.ts';

/** Every kind of edit: one typed step on the intent inside a change. A new one is a file of its own and a row here. */
export const EDITS = {
  layFabric,
  clearFabric,
  changeSettings,
  choosePools,
  setSpines,
  addRack,
  removeRack,
  placeRack,
  putModel,
  removeModel,
  putRackPattern,
  removeRackPattern,
  takeSeat,
  clearSeat,
  addVrf,
  changeVrf,
  removeVrf,
  addNetwork,
  changeNetwork,
  carryNetwork,
  removeNetwork,
  connectServer,
  changeServer,
  disconnectServer,
  joinOutside,
  changeOutside,
  leaveOutside,
  shutLink,
  openLink,
  drainSeat,
  bringBack,
  putPolicy,
  removePolicy,
  putNeighbour,
  removeNeighbour,
  putSpeakers,
  removeSpeakers,
  putRoute,
  removeRoute,
  putLeak,
  removeLeak,
  putSnippet,
  removeSnippet,
  putSecret,
  removeSecret,
  putWaiver,
  removeWaiver,
} as const;

type Kinds = typeof EDITS;
export type EditKind = keyof Kinds;
export type EditOf<K extends EditKind> = Kinds[K] extends EditKindOf<infer E> ? E : never;
export type Edit = { readonly [K in EditKind]: EditOf<K> }[EditKind];

// Each row takes the edits of its own kind, which is what it is found by.
const kindOf = (edit: Edit): EditKindOf<Edit> => EDITS[edit.kind] as unknown as EditKindOf<Edit>;

/** Applies one edit. Pure; what cannot be applied leaves the intent unchanged and says why, with a path into the edit. */
export function applyEdit(intent: FabricIntent, edit: Edit): Applied {
  const made = kindOf(edit).apply(intent, edit);
  return made.intent === intent ? made : { ...made, intent: withoutStrays(intent, made.intent) };
}

/** Applies edits in order; stops at the first that cannot be applied and says which one. */
export function applyEdits(base: FabricIntent, edits: readonly Edit[]): Applied & { readonly failedAt?: number } {
  let intent = base;
  for (const [i, edit] of edits.entries()) {
    const step = applyEdit(intent, edit);
    if (step.findings.length > 0) return { intent, findings: step.findings, failedAt: i };
    intent = step.intent;
  }
  return { intent, findings: [] };
}

/** Why edits that come one after another cannot be made, with paths from the first on: `/edits/0/network/vlan`; empty = they can. */
export const refusals = (base: FabricIntent, edits: readonly Edit[]): Finding[] => {
  const { findings, failedAt } = applyEdits(base, edits);
  return findings.map((f) => ({ ...f, path: `/edits/${failedAt}${f.path ?? ''}` }));
};

/** The edit as a sentence for people, from what to what; `before` is the intent it is made on, where it is at hand. */
export const describeEdit = (edit: Edit, before: FabricIntent | null = null): string =>
  kindOf(edit).sentence(edit, before);

/** The sentences of edits made one after another on an intent. */
export function describeEdits(edits: readonly Edit[], before: FabricIntent): string[] {
  let intent = before;
  return edits.map((edit) => {
    const said = describeEdit(edit, intent);
    intent = applyEdit(intent, edit).intent;
    return said;
  });
}

/**
 * The intent objects an edit is about, e.g. `network:echo-store`. Used to trace a configuration line to its edit and
 * to name conflicts when a change is rebased.
 */
export const subjectsOf = (edit: Edit): Subject[] => kindOf(edit).subjects(edit);

export const schemaOfEdit = (kind: EditKind): AnySchema => EDITS[kind].schema;
/** An edit as it comes in from outside. */
export const editSchema = lazy((value: unknown) => {
  const kind = typeof value === 'object' && value !== null && 'kind' in value ? String(value.kind) : '';
  return (
    Object.hasOwn(EDITS, kind)
      ? schemaOfEdit(kind as EditKind)
      : editFields('a kind of edit that is known').required('an edit is expected')
  ) as ObjectSchema<object>;
});
