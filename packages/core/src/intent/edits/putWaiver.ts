import { changeSentence } from '../collections/sentences.ts';
import { waivers } from '../collections/waivers.ts';
import type { Waiver } from '../intent.ts';
import { waiverSchema } from '../schemas/objects.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

/** Waives a design rule, or says anew why and until when. */
export interface PutWaiver {
  readonly kind: 'putWaiver';
  readonly waiver: Waiver;
}

export const putWaiver: EditKindOf<PutWaiver> = {
  kind: 'putWaiver',
  schema: editFields('putWaiver', { waiver: waiverSchema }),
  apply: (intent, { waiver }) => done(waivers.put(intent, waiver.rule, waiver)),
  sentence: ({ waiver }, before) =>
    before?.waivers.some((w) => w.rule === waiver.rule)
      ? changeSentence(before, 'waiver', waiver.rule, waiver)
      : `Waive rule ${waiver.rule} until ${waiver.until}: ${waiver.reason}`,
  subjects: ({ waiver }) => [`waiver:${waiver.rule}`],
  makes: {
    of: 'waiver',
    add: (waiver) => ({ kind: 'putWaiver', waiver }),
    change: (waiver) => ({ kind: 'putWaiver', waiver }),
  },
};
