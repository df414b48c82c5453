import {
  capital,
  DEFAULT_SETTINGS,
  SETTING_CHOICES,
  SETTING_LABELS,
  SETTING_REASONS,
  type FabricSettings,
} from '@anthemion/core';
import { Fragment } from 'react';
import { Cap } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, NumberField, TextField, TickField } from '../../parts/Form.tsx';

/** Every setting, by what it is about. A test holds the groups against what settings there are. */
export const SETTING_GROUPS: readonly (readonly [title: string, keys: readonly (keyof FabricSettings)[]])[] = [
  ['Routing', ['underlay', 'underlayFamilies', 'asnScheme', 'keepalive', 'hold', 'bfd', 'restart', 'restartTime']],
  ['Links and MTU', ['linkMtu', 'tenantMtu', 'linkFec']],
  ['Overlay', ['vniRule', 'vniBase', 'fabricNumber']],
  ['Names of switches', ['leafName', 'spineName', 'superSpineName']],
  ['Descriptions of ports', ['linkDescription', 'serverDescription', 'outsideDescription']],
];
/** In what a number is counted. */
const UNITS: Partial<Record<keyof FabricSettings, string>> = {
  linkMtu: ', bytes',
  tenantMtu: ', bytes',
  keepalive: ', s',
  hold: ', s',
  restartTime: ', s',
};

/** A setting by what its default is: one chooses, writes a number or a text, or ticks it. */
function SettingField({ of, lives }: { readonly of: keyof FabricSettings; readonly lives: boolean }) {
  const name = `settings.${of}`;
  const [label, hint, usual] = [capital(SETTING_LABELS[of]), SETTING_REASONS[of], DEFAULT_SETTINGS[of]];
  if (of in SETTING_CHOICES) {
    const options = Object.entries(SETTING_CHOICES[of as keyof typeof SETTING_CHOICES]).flatMap(([id, words]) =>
      // What a living fabric passes through is nothing to begin with.
      lives || id !== 'half-numbered' ? { id, name: words } : [],
    );
    return <ChoiceField name={name} label={label} options={options} hint={hint} />;
  }
  if (typeof usual === 'boolean') return <TickField name={name} label={label} hint={hint} />;
  return typeof usual === 'number' ? (
    <NumberField name={name} label={`${label}${UNITS[of] ?? ''}`} placeholder={String(usual)} hint={hint} />
  ) : (
    <TextField name={name} label={label} placeholder={usual} hint={hint} code />
  );
}

/** Fields of `settings` in the form around them, each with why its default is what it is; `lives` = of a fabric that is there. */
export const SettingFields = ({ lives = false }: { readonly lives?: boolean }) => (
  <>
    {SETTING_GROUPS.map(([title, keys]) => (
      <Fragment key={title}>
        <Cap>{title}</Cap>
        <FormGrid>
          {keys.map((key) => (
            <SettingField key={key} of={key} lives={lives} />
          ))}
        </FormGrid>
      </Fragment>
    ))}
  </>
);
