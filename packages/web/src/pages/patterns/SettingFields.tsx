import { capital, DEFAULT_SETTINGS, SETTING_LABELS, SETTING_REASONS } from '@anthemion/core';
import { Cap } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, NumberField, TextField, TickField } from '../../parts/Form.tsx';

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

/** Fields of `settings` in the form around them, each with why its default is what it is; `whole` = every one of them. */
export function SettingFields({ whole = false }: { readonly whole?: boolean }) {
  return (
    <>
      <Cap>Settings</Cap>
      <FormGrid>
        <ChoiceField
          name="settings.underlay"
          label={capital(SETTING_LABELS.underlay)}
          options={[
            { id: 'unnumbered', name: 'unnumbered' },
            { id: 'numbered', name: 'numbered, /31' },
          ]}
          hint={SETTING_REASONS.underlay}
        />
        <ChoiceField
          name="settings.asnScheme"
          label={capital(SETTING_LABELS.asnScheme)}
          options={[
            { id: 'per-leaf', name: 'one per leaf' },
            { id: 'per-rack', name: 'one per rack' },
            { id: 'two', name: 'one for leaves, one for spines' },
            { id: 'single', name: 'one for all, led by OSPF' },
          ]}
          hint={SETTING_REASONS.asnScheme}
        />
        <ChoiceField
          name="settings.vniRule"
          label={capital(SETTING_LABELS.vniRule)}
          options={[
            { id: 'drawn', name: 'drawn' },
            { id: 'base', name: 'base + VLAN' },
            { id: 'equal', name: 'equal to VLAN' },
          ]}
          hint={SETTING_REASONS.vniRule}
        />
        {[...NUMBERS, ...(whole ? MORE : [])].map(([key, unit]) => (
          <NumberField
            key={key}
            name={`settings.${key}`}
            label={`${capital(SETTING_LABELS[key])}${unit}`}
            placeholder={String(DEFAULT_SETTINGS[key])}
            hint={SETTING_REASONS[key]}
          />
        ))}
        {NAMES.map((key) => (
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
