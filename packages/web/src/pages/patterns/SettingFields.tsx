import { capital, DEFAULT_SETTINGS, SETTING_CHOICES, SETTING_LABELS, SETTING_REASONS } from '@anthemion/core';
import { Cap } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, NumberField, TextField, TickField } from '../../parts/Form.tsx';

/** What one chooses among. */
const CHOICES = ['underlay', 'underlayFamilies', 'asnScheme', 'vniRule', 'linkFec'] as const;

/** Numbers, each with its unit. */
const NUMBERS = [
  ['linkMtu', ', bytes'],
  ['tenantMtu', ', bytes'],
  ['fabricNumber', ''],
] as const;

/** What fabrics set for themselves and patterns seldom do. */
const MORE = [
  ['vniBase', ''],
  ['keepalive', ', s'],
  ['hold', ', s'],
] as const;

/** How switches are named. */
const NAMES = ['leafName', 'spineName', 'superSpineName'] as const;
/** What ports say of what is plugged into them. */
const DESCRIPTIONS = ['linkDescription', 'serverDescription', 'outsideDescription'] as const;

/** Fields of `settings` in the form around them, each with why its default is what it is; `whole` = every one of them. */
export function SettingFields({ whole = false }: { readonly whole?: boolean }) {
  return (
    <>
      <Cap>Settings</Cap>
      <FormGrid>
        {CHOICES.map((key) => (
          <ChoiceField
            key={key}
            name={`settings.${key}`}
            label={capital(SETTING_LABELS[key])}
            options={Object.entries(SETTING_CHOICES[key]).flatMap(([id, name]) =>
              // What a living fabric passes through is nothing to begin with.
              whole || id !== 'half-numbered' ? { id, name } : [],
            )}
            hint={SETTING_REASONS[key]}
          />
        ))}
        {[...NUMBERS, ...(whole ? MORE : [])].map(([key, unit]) => (
          <NumberField
            key={key}
            name={`settings.${key}`}
            label={`${capital(SETTING_LABELS[key])}${unit}`}
            placeholder={String(DEFAULT_SETTINGS[key])}
            hint={SETTING_REASONS[key]}
          />
        ))}
        {[...NAMES, ...(whole ? DESCRIPTIONS : [])].map((key) => (
          <TextField
            key={key}
            name={`settings.${key}`}
            label={capital(SETTING_LABELS[key])}
            placeholder={DEFAULT_SETTINGS[key]}
            hint={SETTING_REASONS[key]}
            code
          />
        ))}
        <TickField name="settings.bfd" label={SETTING_LABELS.bfd} hint={SETTING_REASONS.bfd} />
      </FormGrid>
    </>
  );
}
