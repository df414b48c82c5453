import { checkModel } from '../../hardware/checkModel.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { models } from '../collections/parts.ts';
import { changeSentence } from '../collections/sentences.ts';
import { modelSchema } from '../schemas/parts.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Describes a switch model, a new one or the one of that name anew. */
export interface PutModel {
  readonly kind: 'putModel';
  readonly model: SwitchModel;
}

export const putModel: EditKindOf<PutModel> = {
  kind: 'putModel',
  schema: editFields('putModel', { model: modelSchema }),
  apply: (intent, { model }) =>
    unless(
      checkModel(model).map((f) => ({ ...f, path: `/model${f.path ?? ''}` })),
      intent,
      () => models.put(intent, model.name, model),
    ),
  sentence: ({ model }, before) =>
    before && !before.models.some((m) => m.name === model.name)
      ? `Add switch model ${model.name}`
      : changeSentence(before, 'model', model.name, model),
  subjects: ({ model }) => [`model:${model.name}`],
  makes: {
    of: 'model',
    add: (model) => ({ kind: 'putModel', model }),
    change: (model) => ({ kind: 'putModel', model }),
  },
};
