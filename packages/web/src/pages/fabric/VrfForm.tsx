import { proposeTransitVlan, sameContent, vrfSchema, type Vrf } from '@anthemion/core';
import { useState } from 'react';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { AskDialog } from '../../parts/AskDialog.tsx';
import { Button, Cap, Faded, H3, Row } from '../../parts/basics.tsx';
import { Form, mayBeEmpty, NumberField, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView, useSelection } from './FabricFrame.tsx';
import { UNCHANGED } from './inPlace.ts';
import { OwnMapFields } from './SessionFields.tsx';

const SCHEMA = mayBeEmpty(vrfSchema, 'transitVlan', 'connectedMap', 'staticMap', 'mostRoutes');

/**
 * A VRF: for a new one a name is enough, its VLAN is the next free one, its L3 VNI is drawn. One that is there keeps its name.
 */
export function VrfForm({ vrf }: { readonly vrf?: Vrf }) {
  const { fabric } = useFabricView();
  const { intent } = fabric;
  const [, select] = useSelection();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const [removing, setRemoving] = useState(false);
  const proposed = proposeTransitVlan(intent);
  const part = useFormPart<Partial<Vrf> & { name: string }>({
    schema: SCHEMA,
    initial: {
      name: vrf?.name ?? '',
      transitVlan: vrf?.transitVlan,
      vni: vrf?.vni,
      connectedMap: vrf?.connectedMap ?? '',
      staticMap: vrf?.staticMap ?? '',
      mostRoutes: vrf?.mostRoutes,
    },
    ...(vrf ? {} : { keep: `vrf of ${fabric.name}` }),
    base: '/edits/0/vrf',
  });
  const close = (): void => {
    part.forget();
    select(null);
  };
  const networks = intent.networks.filter((n) => n.vrf === vrf?.name).map((n) => n.name);
  return (
    <>
      <Form
        part={part}
        onSend={async ({ transitVlan = vrf?.transitVlan ?? proposed, ...typed }) => {
          const { name, vni, connectedMap, staticMap, mostRoutes } = typed;
          const said = {
            name,
            transitVlan,
            ...(vni === undefined ? {} : { vni }),
            ...(connectedMap ? { connectedMap } : {}),
            ...(staticMap ? { staticMap } : {}),
            ...(mostRoutes === undefined ? {} : { mostRoutes }),
          };
          if (vrf && sameContent(said, vrf)) return UNCHANGED;
          const made = await makeEdits(
            [vrf ? { kind: 'changeVrf', name, vrf: said } : { kind: 'addVrf', vrf: said }],
            true,
          );
          if (made.ok && !vrf) select(null);
          return made.ok ? null : made;
        }}
        buttons={
          may && (
            <Row $wrap>
              <Button type="submit" $kind="main">
                {vrf ? 'Change VRF' : 'Add VRF'}
              </Button>
              {vrf && (
                <Button $kind="danger" onPress={() => setRemoving(true)}>
                  Remove
                </Button>
              )}
              <Button onPress={close}>{vrf ? 'Close' : 'Cancel'}</Button>
            </Row>
          )
        }
      >
        <Cap>VRF</Cap>
        <H3>{vrf ? vrf.name : 'A new VRF'}</H3>
        {!vrf && (
          <TextField
            name="name"
            label="Name"
            placeholder="tides"
            hint="At most 15 characters: Linux names a device after it"
            autoFocus
            isRequired
          />
        )}
        <NumberField
          name="transitVlan"
          label="L3 VNI’s VLAN"
          placeholder={vrf ? String(vrf.transitVlan) : `${proposed}, next free`}
        />
        <NumberField
          name="vni"
          label="L3 VNI"
          placeholder={(vrf && fabric.values[`vrf:${vrf.name}/vni`]) ?? 'drawn from the pool'}
          {...(vrf ? { hint: 'empty = drawn from the pool' } : {})}
        />
        <NumberField
          name="mostRoutes"
          label="Most routes"
          placeholder="any number"
          hint="The proof holds its sessions outside to it: no switch does by itself"
        />
        <OwnMapFields />
        {vrf && <Faded>{networks.length === 0 ? 'No network is in it.' : `In it: ${networks.join(', ')}`}</Faded>}
      </Form>
      {vrf && (
        <AskDialog
          title={`Remove VRF ${vrf.name}`}
          yes="Remove it"
          isOpen={removing}
          onClose={() => setRemoving(false)}
          onYes={() => {
            setRemoving(false);
            void makeEdits([{ kind: 'removeVrf', name: vrf.name }]).then((made) => made.ok && select(null));
          }}
        >
          {networks.length === 0
            ? 'No network is in it. Its sessions outside and static routes are to be taken away first, where there are any.'
            : `It has ${networks.join(', ')}, which are to be removed first: it is refused until then.`}{' '}
          The edit can be undone in the change.
        </AskDialog>
      )}
    </>
  );
}
