import { describeEdit, subjectsOf } from '../intent/edits/index.ts';
import { kindOfRole, type ValueKey } from '../pools/demands.ts';
import type { Subject } from '../subject.ts';
import type { Cause, OriginContext } from './section.ts';
import { SECTION_OF } from './sections.ts';
import type { Place } from './switchConfig.ts';

/** What put a configuration line there. */
export interface Origin {
  /** Intent object behind the line, e.g. `network:echo-store`. */
  readonly subject: Subject;
  /** What to call it beside the line. */
  readonly label: string;
  /** The drawn or chosen value in the line, where there is one. */
  readonly value?: { readonly key: ValueKey; readonly text: string; readonly pool: string };
  /** Edit of the open change that caused it, 1-based, with its sentence. */
  readonly edit?: { readonly number: number; readonly sentence: string };
}

/** A line that speaks of no place is one that the dialect writes to every switch. */
const ofDialect: Cause = { subject: 'fabric', label: 'in every text of this dialect' };
const causeOf = (place: Place, context: OriginContext): Cause =>
  place[0] === undefined ? ofDialect : SECTION_OF[place[0]].causeOf(place, context);

/** Why a place of a switch's configuration is as it is: intent object, value and pool, and the edit that brought it. */
export function originOf(place: Place, context: OriginContext): Origin {
  const cause = causeOf(place, context);
  const text = cause.key === undefined ? undefined : context.values.get(cause.key);
  const entry = context.ledger.find((e) => e.key === cause.key && e.fabric === context.intent.name);
  // The last edit wins; a network's lines also come from the edit that carried it here.
  const number = context.edits.findLastIndex((e) => subjectsOf(e).includes(cause.subject));
  const laid = number >= 0 ? number : context.edits.findIndex((e) => e.kind === 'layFabric');
  return {
    subject: cause.subject,
    label: cause.label,
    ...(text === undefined || cause.key === undefined
      ? {}
      : {
          value: {
            key: cause.key,
            text,
            pool:
              entry?.pool ??
              (cause.role && kindOfRole(cause.role) === entry?.kind ? context.intent.pools[cause.role] : ''),
          },
        }),
    ...(laid < 0 ? {} : { edit: { number: laid + 1, sentence: describeEdit(context.edits[laid]!) } }),
  };
}
