import { useState } from 'react';
import { object } from 'yup';
import { hasPods, plural, shapeOf, TIER_FIELDS, type Edit, type FabricIntent, type SetSpines } from '@anthemion/core';
import type { PartsAnswer } from '@anthemion/contract';
import { api } from '../../app/api.ts';
import { useEdits } from '../../app/useEdits.ts';
import { AskDialog } from '../../parts/AskDialog.tsx';
import { Button, Faded } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { Form, FormButtons, NumberField, useFormPart } from '../../parts/Form.tsx';
import { BreakoutsField, ManagementFields, managementOf, OthersField } from '../patterns/TierFields.tsx';
import { useFabricView } from './FabricFrame.tsx';

type Typed = Omit<SetSpines, 'kind' | 'models' | 'management'> & {
  readonly management: { readonly port: string; readonly ports: string };
};

// The management network may be left empty; where it is not, the server judges it.
const SCHEMA = object(TIER_FIELDS);

/** The switches above the racks of a fabric, and the network they are managed by. */
export function TiersDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const { data: parts } = api.usePartsQuery();
  return (
    <Dialog title="Switches above the racks" isOpen={isOpen} onClose={onClose} width={520}>
      {parts && <TiersForm name={fabric.name} intent={fabric.intent} parts={parts} onClose={onClose} />}
    </Dialog>
  );
}

/** What is there now, as the form holds it. */
const typedOf = (intent: FabricIntent): Typed => ({
  ...(shapeOf(intent) === 'collapsed'
    ? {}
    : { count: intent.spines.count, others: intent.spines.others ?? [], breakouts: intent.spines.breakouts ?? [] }),
  ...(hasPods(intent)
    ? {
        pods: intent.pods ?? 1,
        superSpines: intent.superSpines?.count ?? 0,
        superOthers: intent.superSpines?.others ?? [],
        superBreakouts: intent.superSpines?.breakouts ?? [],
      }
    : {}),
  management: intent.management ?? { port: '', ports: '' },
});

/** The edit that makes of what is there what was typed; null = nothing is otherwise. */
function editOf(intent: FabricIntent, typed: Typed, parts: PartsAnswer): Edit | null {
  const was: Readonly<Record<string, unknown>> = { ...typedOf(intent) };
  const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
  const { management: _, ...said } = typed;
  const management = managementOf(typed.management) ?? null;
  const changed = Object.fromEntries(
    Object.entries(said).filter(([key, value]) => value !== undefined && !same(value, was[key])),
  );
  const managed = same(management, intent.management ?? null) ? {} : { management };
  if (Object.keys(changed).length === 0 && Object.keys(managed).length === 0) return null;
  const named = [typed.others ?? [], typed.superOthers ?? []].flat();
  const models = parts.models.filter(
    (m) => named.some((o) => o.model === m.name) && !intent.models.some((known) => known.name === m.name),
  );
  return { kind: 'setSpines', ...changed, ...managed, ...(models.length > 0 ? { models } : {}) };
}

function TiersForm({
  name,
  intent,
  parts,
  onClose,
}: {
  readonly name: string;
  readonly intent: FabricIntent;
  readonly parts: PartsAnswer;
  readonly onClose: () => void;
}) {
  const makeEdits = useEdits(name);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: typedOf(intent),
    keep: `tiers of ${name}`,
    base: '/edits/0',
  });
  const shape = shapeOf(intent);
  const [clearing, setClearing] = useState(false);
  return (
    <>
      <Form
        part={part}
        onSend={async (typed) => {
          const edit = editOf(intent, typed, parts);
          if (edit !== null) {
            const made = await makeEdits([edit], true);
            if (!made.ok) return made;
          }
          onClose();
          return null;
        }}
        buttons={
          <FormButtons
            yes="Change"
            onNo={() => {
              part.forget();
              onClose();
            }}
          >
            <Button $kind="danger" onPress={() => setClearing(true)}>
              Clear the fabric …
            </Button>
          </FormButtons>
        }
      >
        <FormGrid>
          {shape === 'five-stages' && (
            <>
              <NumberField name="pods" label="Pods" />
              <NumberField name="superSpines" label="Super-spines of a plane" />
              <OthersField name="superOthers" label="Super-spines of another model" />
              <BreakoutsField name="superBreakouts" label="Split ports of the super-spines" />
            </>
          )}
          {shape !== 'collapsed' && (
            <>
              <NumberField name="count" label={shape === 'five-stages' ? 'Spines of a pod' : 'Spines'} />
              <OthersField name="others" label="Spines of another model" />
              <BreakoutsField name="breakouts" label="Split ports of the spines" />
            </>
          )}
          <ManagementFields />
        </FormGrid>
        <Faded style={{ fontSize: 13 }}>
          What is added moves no cable. A split port takes the place of its cage, so cables behind it move: the change
          says which. Switches of seats that go leave them.
        </Faded>
      </Form>
      <AskDialog
        title={`Clear ${name}`}
        yes="Clear it"
        isOpen={clearing}
        onClose={() => setClearing(false)}
        onYes={() => {
          setClearing(false);
          part.forget();
          onClose();
          void makeEdits([{ kind: 'clearFabric' }]);
        }}
      >
        Everything goes: {plural(intent.racks.length, 'rack')} with {plural(intent.ports.length, 'server')},{' '}
        {plural(intent.vrfs.length, 'VRF')} with {plural(intent.networks.length, 'network')}, links and sessions
        outside, policies, snippets. Name and history stay, and so does what is live, until the change is rolled out;
        then its switches are cleared. The edit can be undone in the change.
      </AskDialog>
    </>
  );
}
