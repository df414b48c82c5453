import { outsideKey, outsideSchema, rackPatternOf, type FabricIntent, type OutsideLink } from '@anthemion/core';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, H3, Mono, Row } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { ChoiceField, Form, mayBeEmpty, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView, useSelection } from './FabricFrame.tsx';
import { useObjectRows } from './useObjectRows.tsx';

/** What stands in the address where a new link is made. */
export const NEW_LINK = 'new-link';

/** Racks with the duty to meet something outside. */
export const racksOutward = (intent: FabricIntent) =>
  intent.racks.filter((r) => (rackPatternOf(intent, r)?.duties ?? []).length > 0);

const COLUMNS: readonly TableColumn<OutsideLink>[] = [
  { id: 'system', title: 'Leads to', text: (o) => o.system, cell: (o) => <Mono>{o.system}</Mono> },
  { id: 'farPort', title: 'Its port', text: (o) => o.farPort, cell: (o) => <Mono>{o.farPort}</Mono> },
  { id: 'rack', title: 'Rack', text: (o) => o.rack, width: '10%' },
  { id: 'side', title: 'On', text: (o) => `leaf ${o.side}`, width: '14%' },
  { id: 'port', title: 'Port', text: (o) => o.port, cell: (o) => <Mono>{o.port}</Mono>, width: '12%' },
  { id: 'to', title: 'To', text: (o) => (o.to === 'site' ? 'another site' : 'outside'), width: '16%' },
];

/** Cables from border leaves and site gateways to what is not of the fabric. */
export function OutsideLinks() {
  const { fabric } = useFabricView();
  const may = useMay('designer');
  const rows = useObjectRows<OutsideLink>({
    table: 'outside',
    kind: 'outside',
    keyOf: outsideKey,
    away: (n) => `Take ${n} away`,
  });
  const [, select] = useSelection();
  return (
    <>
      <Cap style={{ marginTop: 14 }}>Outside links</Cap>
      <DataTable<OutsideLink>
        label="Outside links"
        rows={fabric.intent.outside}
        columns={[...COLUMNS]}
        rowKey={outsideKey}
        fileName={`${fabric.name}-outside`}
        {...rows.does}
        actions={
          may && racksOutward(fabric.intent).length > 0 ? (
            <Button onPress={() => select(NEW_LINK)}>Join outside</Button>
          ) : undefined
        }
        empty={<p>No border is joined to anything yet.</p>}
      />
      {rows.dialog}
    </>
  );
}

const SCHEMA = mayBeEmpty(outsideSchema, 'to');
type Typed = Omit<OutsideLink, 'rack' | 'to'> & { readonly rack: number | string; readonly to?: string };

/** Joins a port of a border to something outside. */
export function JoinForm({ onDone }: { readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { intent } = fabric;
  const makeEdits = useEdits(fabric.name);
  const racks = racksOutward(intent);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: { rack: String(racks[0]?.number ?? ''), side: 'a', port: '', system: '', farPort: '', to: '' },
    keep: `outside link of ${fabric.name}`,
    base: '/edits/0/link',
  });
  const number = Number(part.rhf.watch('rack'));
  const found = intent.racks.find((r) => r.number === number);
  const pattern = found && rackPatternOf(intent, found);
  const close = (): void => {
    part.forget();
    onDone();
  };
  return (
    <Form
      part={part}
      onSend={async ({ rack, to, ...rest }) => {
        const link: OutsideLink = { ...rest, rack: Number(rack), ...(to === 'site' ? { to } : {}) };
        const made = await makeEdits([{ kind: 'joinOutside', link }], true);
        if (made.ok) part.rhf.reset({ ...rest, rack, to: to ?? '', port: '', farPort: '' });
        return made.ok ? null : made;
      }}
      buttons={
        <Row>
          <Button type="submit" $kind="main">
            Join
          </Button>
          <Button onPress={close}>Close</Button>
        </Row>
      }
    >
      <Cap>Outside link</Cap>
      <H3>Join something outside</H3>
      <TextField name="system" label="System" placeholder="offing-1" autoFocus isRequired />
      <TextField name="farPort" label="Its port" placeholder="eth1" code isRequired />
      <ChoiceField
        name="rack"
        label="Rack"
        options={racks.map((r) => ({ id: String(r.number), name: `rack-${r.number}`, note: r.pattern }))}
      />
      {pattern?.kind === 'esi-pair' && (
        <ChoiceField
          name="side"
          label="On"
          options={[
            { id: 'a', name: 'leaf a' },
            { id: 'b', name: 'leaf b' },
          ]}
        />
      )}
      <TextField name="port" label="Port" placeholder={pattern?.serverPorts ?? ''} code isRequired />
      {pattern?.duties?.includes('site-gateway') && (
        <ChoiceField name="to" label="To" options={[{ id: 'site', name: 'another site' }]} none="an outside system" />
      )}
    </Form>
  );
}
