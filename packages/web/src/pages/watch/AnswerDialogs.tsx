import { changePatchRequest, type CauseAnswer, type LiveAnswer } from '@anthemion/contract';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { asksTogether, notTaken, problemOf } from '../../app/api.ts';
import type { AnyObject, ObjectSchema } from 'yup';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { useChangeOf } from '../../app/useEdits.ts';
import { watchApi } from '../../app/watchApi.ts';
import { Cap, Faded, Mono, Note, Waiting } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, TextField, useFormPart, type NotTaken } from '../../parts/Form.tsx';
import { Tick } from '../../parts/fields.tsx';
import { ReasonDialog } from '../../parts/ReasonDialog.tsx';

/** A change that is made by it is titled as any other. */
const SCHEMA = (changePatchRequest as ObjectSchema<AnyObject>).pick(['title']);

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
  const [putBack] = watchApi.usePutBackMutation();
  const navigate = useNavigate();
  const [together, setTogether] = useState<boolean | null>(null);
  const begin = async (reason: string): Promise<NotTaken | null> => {
    const { fabric, switches } = edited!;
    const result = await putBack({
      fabric,
      serials: switches.map((s) => s.serial),
      reason,
      together: together === true,
    });
    if (result.data) void navigate(`/rollouts/${result.data.id}`);
    if (asksTogether(result)) setTogether((asked) => asked ?? false);
    return notTaken(result);
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
      onYes={begin}
      onClose={onClose}
    >
      <p>
        What the live revision means is sent again, as a rollout with all its checks. What was done by hand goes, and
        stays in the back-up of the rollout. Open changes are not touched.
      </p>
      {edited && <WhatWasDone edited={edited} />}
      {together !== null && <Tick label="Send them together" value={together} onChange={setTogether} />}
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
  const [adopt] = watchApi.useAdoptMutation();
  const hosts = switches.map((s) => s.host).slice(0, 2);
  const part = useFormPart<{ readonly title: string }>({
    schema: SCHEMA,
    initial: { title: `Adopt what was done by hand on ${hosts.join(', ')}` },
  });
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const go = async ({ title }: { readonly title: string }): Promise<NotTaken | null> => {
    const result = await adopt({ fabric, serials, change, title, reason: '', ticket: '' });
    if (!result.data) return notTaken(result);
    dispatch(changeOpened(result.data.change));
    onClose();
    void navigate(`/changes/${result.data.change}`);
    return null;
  };
  const data = preview.currentData;
  if (preview.isError) return <Note $tone="bad">{problemOf(preview.error).detail}</Note>;
  if (!data) return <Waiting what="Reading it as intent" />;
  return (
    <Form
      part={part}
      onSend={go}
      buttons={
        <FormButtons
          yes={change === null ? 'Adopt in a new change' : 'Adopt in the open change'}
          isDisabled={data.edits.length === 0}
          onNo={onClose}
        />
      }
    >
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
      {change === null && data.edits.length > 0 && <TextField name="title" label="Title of the change" />}
    </Form>
  );
}
