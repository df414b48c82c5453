import { checkNames, DEFAULT_NAMES } from '../../patterns/names.ts';
import { hasPods, type FabricSettings } from '../../patterns/patterns.ts';
import { valueSentence } from '../collections/sentences.ts';
import { settingsPatchSchema } from '../schemas/parts.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

export interface ChangeSettings {
  readonly kind: 'changeSettings';
  readonly settings: Partial<FabricSettings>;
}

export const changeSettings: EditKindOf<ChangeSettings> = {
  kind: 'changeSettings',
  schema: editFields('changeSettings', { settings: settingsPatchSchema }),
  apply: (intent, edit) => {
    const settings = { ...intent.settings, ...edit.settings };
    const named = Object.keys(edit.settings).some((key) => key in DEFAULT_NAMES);
    return unless(named ? checkNames(settings, intent.namePrefix, hasPods(intent)) : [], intent, () => ({
      ...intent,
      settings,
    }));
  },
  sentence: (edit, before) =>
    `Set ${Object.entries(edit.settings)
      .map(([key, value]) => valueSentence(before, 'setting', key, value))
      .join(', ')}`,
  subjects: (edit) => Object.keys(edit.settings).map((key) => `setting:${key}` as const),
  makes: { of: 'setting', patch: (settings) => ({ kind: 'changeSettings', settings }) },
};
