import { api, problemOf } from '../../app/api.ts';
import { Failure, Stack, Waiting } from '../../parts/basics.tsx';
import { Tick } from '../../parts/fields.tsx';
import { useSave } from '../../app/useSave.ts';
import { AccessPage } from './AccessPage.tsx';

/** Settings that count for everybody. */
export function SettingsPage() {
  const settings = api.useSettingsQuery();
  const [put] = api.usePutSettingsMutation();
  const { save } = useSave();
  return (
    <AccessPage title="Settings">
      {settings.isError && (
        <Failure detail={problemOf(settings.error).detail} onRetry={() => void settings.refetch()} />
      )}
      {settings.isLoading && <Waiting />}
      {settings.data && (
        <Stack $gap={16} style={{ maxWidth: 560, padding: '16px 0' }}>
          <Tick
            label="A second person must approve every change"
            value={settings.data.secondPerson}
            onChange={(secondPerson) =>
              void save(
                put({ secondPerson }),
                secondPerson ? 'A second person is asked again' : 'Switched off; it stands in the audit log',
              )
            }
            hint="Nobody who made, kept or undid an edit of a change can approve it. Switching this off is written into the audit log."
          />
        </Stack>
      )}
    </AccessPage>
  );
}
