import { DEFAULT_SETTINGS, settingsPatchSchema, type Edit, type FabricSettings } from '@anthemion/core';
import { useState } from 'react';
import { object } from 'yup';
import { notMade, type Made } from '../../app/useEdits.ts';
import { Button } from '../../parts/basics.tsx';
import { Form, FormButtons, useFormPart } from '../../parts/Form.tsx';
import { SettingFields } from '../patterns/SettingFields.tsx';

const SCHEMA = object({ settings: settingsPatchSchema as never });

interface Props {
  readonly settings: FabricSettings;
  readonly onSave: (edit: Edit) => Promise<Made>;
}

/** The settings of a fabric, behind a button: they are set once and seldom again. */
export function SettingsForm(props: Props) {
  const [open, setOpen] = useState(false);
  return open ? (
    <Settings {...props} onClose={() => setOpen(false)} />
  ) : (
    <div>
      <Button onPress={() => setOpen(true)}>More settings</Button>
    </div>
  );
}

function Settings({ settings, onSave, onClose }: Props & { readonly onClose: () => void }) {
  const part = useFormPart<{ settings: FabricSettings }>({ schema: SCHEMA, initial: { settings }, base: '/edits/0' });
  return (
    <Form
      part={part}
      onSend={async ({ settings: typed }) => {
        // What is left empty is the default, as its field says.
        const said = Object.entries(typed).filter(([, v]) => v !== undefined && v !== '');
        const wanted = { ...DEFAULT_SETTINGS, ...Object.fromEntries(said) } as FabricSettings;
        const changed: Partial<FabricSettings> = Object.fromEntries(
          Object.entries(wanted).filter(([k, v]) => settings[k as keyof FabricSettings] !== v),
        );
        if (Object.keys(changed).length === 0) return null;
        return notMade(await onSave({ kind: 'changeSettings', settings: changed }));
      }}
      buttons={<FormButtons yes="Set" no="Close" onNo={onClose} />}
    >
      <SettingFields lives />
    </Form>
  );
}
