import { settingsRequest } from '@anthemion/contract';
import { toast } from 'sonner';
import { api, notTaken, problemOf } from '../../app/api.ts';
import { Failure, Waiting } from '../../parts/basics.tsx';
import { Form, FormButtons, TickField, useFormPart } from '../../parts/Form.tsx';
import { AccessPage } from './AccessPage.tsx';

/** Settings that count for everybody. */
export function SettingsPage() {
  const settings = api.useSettingsQuery();
  return (
    <AccessPage title="Settings">
      {settings.isError && (
        <Failure detail={problemOf(settings.error).detail} onRetry={() => void settings.refetch()} />
      )}
      {settings.isLoading && <Waiting />}
      {settings.data && <Settings now={settings.data} />}
    </AccessPage>
  );
}

function Settings({ now }: { readonly now: { readonly secondPerson: boolean } }) {
  const [put] = api.usePutSettingsMutation();
  const part = useFormPart<{ readonly secondPerson: boolean }>({
    schema: settingsRequest,
    initial: { secondPerson: now.secondPerson },
  });
  return (
    <div style={{ maxWidth: 560, padding: '16px 0' }}>
      <Form
        part={part}
        onSend={async ({ secondPerson }) => {
          const no = notTaken(await put({ secondPerson }));
          if (no === null) {
            part.rhf.reset({ secondPerson });
            toast.success(secondPerson ? 'A second person is asked again' : 'Switched off; it stands in the audit log');
          }
          return no;
        }}
        buttons={<FormButtons yes="Change" isDisabled={!part.rhf.formState.isDirty} />}
      >
        <TickField
          name="secondPerson"
          label="A second person must approve every change"
          hint="Nobody who made, kept or undid an edit of a change can approve it. Switching this off is written into the audit log."
        />
      </Form>
    </div>
  );
}
