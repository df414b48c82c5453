import type { CauseAnswer, LiveAnswer } from '@anthemion/contract';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { problemOf } from '../../app/api.ts';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { useChangeOf } from '../../app/useEdits.ts';
import { watchApi } from '../../app/watchApi.ts';
import { Button, Cap, Faded, Mono, Note, Row, Stack, Waiting } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { TextInput } from '../../parts/fields.tsx';
import { ReasonDialog } from '../../parts/ReasonDialog.tsx';

/** Switches of one fabric that were edited by hand, and what was done to them. */
export interface Edited {
  readonly fabric: string;
  readonly switches: readonly { readonly serial: string; readonly host: string; readonly byHand: readonly string[] }[];
}

/** The edited switches that some causes are about, by what was read of the fabric. */
export function editedOf(
  fabric: string,
  live: LiveAnswer | undefined,
  causes: readonly Pick<CauseAnswer, 'hosts'>[],
): Edited {
  const hosts = new Set(causes.flatMap((c) => c.hosts));
  return {
    fabric,
    switches: (live?.seats ?? []).flatMap((s) =>
      s.serial !== null && s.health === 'drifted' && hosts.has(s.host)
        ? [{ serial: s.serial, host: s.host, byHand: s.byHand }]
        : [],
    ),
  };
}

function WhatWasDone({ edited }: { readonly edited: Edited }) {
  return (
    <ul>
      {edited.switches.slice(0, 8).map((s) => (
        <li key={s.serial}>
          <Mono>{s.host}</Mono>: {s.byHand.slice(0, 4).join('; ')}
          {s.byHand.length > 4 && ` and ${s.byHand.length - 4} more`}
        </li>
      ))}
      {edited.switches.length > 8 && <li>and {edited.switches.length - 8} more switches</li>}
    </ul>
  );
}

/** Restores what is meant on switches that were edited by hand: says what will be undone, asks why, begins the rollout. */
export function PutBackDialog({ edited, onClose }: { readonly edited: Edited | null; readonly onClose: () => void }) {
  const [putBack, { isLoading }] = watchApi.usePutBackMutation();
  const navigate = useNavigate();
  const begin = async (reason: string): Promise<void> => {
    const { fabric, switches } = edited!;
    const result = await putBack({ fabric, serials: switches.map((s) => s.serial), reason });
    if ('error' in result) {
      toast.error(problemOf(result.error).detail);
      return;
    }
    onClose();
    void navigate(`/rollouts/${result.data!.id}`);
  };
  return (
    <ReasonDialog
      title={
        edited?.switches.length === 1
          ? `Put back ${edited.switches[0]!.host}`
          : `Put back ${edited?.switches.length ?? 0} switches`
      }
      placeholder="Nobody meant that"
      yes="Put back"
      no="Cancel"
      isOpen={edited !== null}
      isBusy={isLoading}
      onYes={(reason) => void begin(reason)}
      onClose={onClose}
    >
      <p>
        What the live revision means is sent again, as a rollout with all its checks. What was done by hand goes, and
        stays in the back-up of the rollout. Open changes are not touched.
      </p>
      {edited && <WhatWasDone edited={edited} />}
    </ReasonDialog>
  );
}

/** Takes what was done by hand into the intent, as far as it has words for it: shows the edits before they are made. */
export function AdoptDialog({ edited, onClose }: { readonly edited: Edited | null; readonly onClose: () => void }) {
  return (
    <Dialog
      title={edited?.switches.length === 1 ? `Adopt ${edited.switches[0]!.host}` : 'Adopt hand edits'}
      isOpen={edited !== null}
      onClose={onClose}
      width={560}
    >
      {edited && <Adopting edited={edited} onClose={onClose} />}
    </Dialog>
  );
}

function Adopting({ edited, onClose }: { readonly edited: Edited; readonly onClose: () => void }) {
  const { fabric, switches } = edited;
  const change = useChangeOf(fabric);
  const serials = useMemo(() => switches.map((s) => s.serial), [switches]);
  const preview = watchApi.useAdoptPreviewQuery({ fabric, serials, change });
  const [adopt, { isLoading }] = watchApi.useAdoptMutation();
  const [title, setTitle] = useState(
    `Adopt what was done by hand on ${switches
      .map((s) => s.host)
      .slice(0, 2)
      .join(', ')}`,
  );
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const go = async (): Promise<void> => {
    const result = await adopt({ fabric, serials, change, title, reason: '', ticket: '' });
    if ('error' in result) {
      toast.error(problemOf(result.error).detail);
      return;
    }
    dispatch(changeOpened(result.data!.change));
    onClose();
    void navigate(`/changes/${result.data!.change}`);
  };
  const data = preview.currentData;
  if (preview.isError) return <Note $tone="bad">{problemOf(preview.error).detail}</Note>;
  if (!data) return <Waiting what="Reading it as intent" />;
  return (
    <Stack $gap={12}>
      <WhatWasDone edited={edited} />
      {data.edits.length > 0 && (
        <div>
          <Cap>Edits that say it</Cap>
          <ul>
            {data.edits.map((e) => (
              <li key={e}>{e}</li>
            ))}
          </ul>
        </div>
      )}
      {data.left.length > 0 && (
        <div>
          <Cap>What the intent cannot say</Cap>
          {data.left.map((l) => (
            <Note key={`${l.host} ${l.sentence}`} $tone="wait">
              <Mono>{l.host}</Mono> {l.sentence}: {l.why}.
            </Note>
          ))}
          <Faded>It stays drifted, and can be put back.</Faded>
        </div>
      )}
      {change === null && data.edits.length > 0 && (
        <TextInput label="Title of the change" value={title} onChange={setTitle} />
      )}
      <Row>
        <Button
          $kind="main"
          isDisabled={isLoading || data.edits.length === 0 || title.trim().length < 3}
          onPress={() => void go()}
        >
          {change === null ? 'Adopt in a new change' : 'Adopt in the open change'}
        </Button>
        <Button onPress={onClose}>Cancel</Button>
      </Row>
    </Stack>
  );
}
