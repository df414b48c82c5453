import { serverPortSchema, type Edit, type FabricIntent, type ServerPort } from '@anthemion/core';
import { boolean, string, type AnyObject, type AnySchema, type ObjectSchema } from 'yup';
import { ChoiceField, LinesField, TickField } from '../../parts/Form.tsx';
import { AS_IT_IS, PickedPortsDialog, type PickedPorts } from './PickedPortsDialog.tsx';

/** What is chosen where nothing is to be untagged. */
const NOTHING = '(none)';
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
export function PortNetworksDialog({ intent, ...ports }: PickedPorts & { readonly intent: FabricIntent }) {
  const racks = new Set(ports.picked.map((p) => p.rack));
  const carried = intent.networks.filter((n) => [...racks].every((r) => n.racks.includes(r)));
  return (
    <PickedPortsDialog<Typed>
      {...ports}
      of="Networks"
      note={
        carried.length === 0
          ? `${racks.size === 1 ? 'Their rack carries no network' : `No network is carried on all ${racks.size} racks of these ports`}; carry one there first, under Tenants.`
          : `Offered is what ${racks.size === 1 ? 'their rack carries' : `all ${racks.size} racks of these ports carry`}.`
      }
      yes={(of) => `Put ${of} on them`}
      schema={SCHEMA}
      initial={{ untagged: AS_IT_IS, tagged: [], noTagged: false }}
      edits={onNetworks}
      already="They are all on these networks already."
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
    </PickedPortsDialog>
  );
}
