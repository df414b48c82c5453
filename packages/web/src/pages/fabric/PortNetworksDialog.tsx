import { plural, serverPortSchema, type Edit, type FabricIntent, type ServerPort } from '@anthemion/core';
import { boolean, string, type AnyObject, type AnySchema, type ObjectSchema } from 'yup';
import { useEdits } from '../../app/useEdits.ts';
import { Faded, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { ChoiceField, Form, FormButtons, LinesField, TickField, useFormPart } from '../../parts/Form.tsx';

/** What is chosen where nothing is to be untagged, and what stands for what each port has. */
const NOTHING = '(none)';
const AS_IT_IS = '';
const OF_A_PORT = /^\/edits\/\d+\/port/;
interface Typed {
  readonly untagged: string;
  /** Empty = each keeps its own, unless none is wanted. */
  readonly tagged: readonly string[];
  readonly noTagged: boolean;
}
const { tagged } = (serverPortSchema as unknown as ObjectSchema<AnyObject>).fields;
const SCHEMA = serverPortSchema.pick([]).shape({
  untagged: string().defined(),
  tagged: tagged as AnySchema,
  noTagged: boolean().defined(),
});

/** Edits that put ports on networks; those that are so already are left. */
export function onNetworks(picked: readonly ServerPort[], { untagged, tagged, noTagged }: Typed): Edit[] {
  return picked.flatMap((p): Edit[] => {
    const { untagged: was, ...rest } = p;
    const next = untagged === AS_IT_IS ? was : untagged === NOTHING ? undefined : untagged;
    // On one port a network is either.
    const others = (noTagged ? [] : tagged.length === 0 ? p.tagged : tagged).filter((n) => n !== next);
    if (next === was && others.join() === p.tagged.join()) return [];
    const port = { ...rest, ...(next === undefined ? {} : { untagged: next }), tagged: others };
    return [{ kind: 'changeServer', port }];
  });
}

/** Puts many ports on other networks together: those that the racks of all of them carry are offered. */
export function PortNetworksDialog({
  fabric,
  intent,
  picked,
  onDone,
  onClose,
}: {
  readonly fabric: string;
  readonly intent: FabricIntent;
  readonly picked: readonly ServerPort[];
  readonly onDone: () => void;
  readonly onClose: () => void;
}) {
  const makeEdits = useEdits(fabric);
  const part = useFormPart<Typed>({ schema: SCHEMA, initial: { untagged: AS_IT_IS, tagged: [], noTagged: false } });
  const racks = new Set(picked.map((p) => p.rack));
  const carried = intent.networks.filter((n) => [...racks].every((r) => n.racks.includes(r)));
  const ports = plural(picked.length, 'port');
  return (
    <Dialog title={`Networks of ${ports}`} isOpen onClose={onClose}>
      <Stack $gap={12}>
        <Faded>
          {carried.length === 0
            ? `${racks.size === 1 ? 'Their rack carries no network' : `No network is carried on all ${racks.size} racks of these ports`}; carry one there first, under Tenants.`
            : `Offered is what ${racks.size === 1 ? 'their rack carries' : `all ${racks.size} racks of these ports carry`}.`}
        </Faded>
        <Form
          part={part}
          onSend={async (typed) => {
            const edits = onNetworks(picked, typed);
            if (edits.length === 0) return { findings: [], detail: 'They are all on these networks already.' };
            const made = await makeEdits(edits, true);
            if (made.ok) onDone();
            // What one port is refused stands at the field that all of them have it from.
            return made.ok
              ? null
              : { ...made, findings: made.findings.map((f) => ({ ...f, path: f.path?.replace(OF_A_PORT, '') ?? '' })) };
          }}
          buttons={<FormButtons yes={`Put ${ports} on them`} onNo={onClose} />}
        >
          <ChoiceField
            name="untagged"
            label="Untagged network"
            none="As each has it"
            options={[
              ...carried.map((n) => ({ id: n.name, name: n.name, note: `VLAN ${n.vlan}` })),
              { id: NOTHING, name: 'None' },
            ]}
          />
          <LinesField
            name="tagged"
            label="Tagged networks, one a line"
            lines={3}
            placeholder="as each has them"
            hint="instead of those they have"
          />
          <TickField name="noTagged" label="No tagged networks" />
        </Form>
      </Stack>
    </Dialog>
  );
}
