import { rackPatternAt, rackPatternOf, sameContent, type FabricIntent, type OutsideLink } from '@anthemion/core';
import { useEdits } from '../../app/useEdits.ts';
import { Cap, Faded, H3 } from '../../parts/basics.tsx';
import { ChoiceField, Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';
import { DriveFields, driveSaid, NOTHING_TYPED, typedDrive, type TypedDrive } from './DriveFields.tsx';
import { useFabricView } from './FabricFrame.tsx';
import { UNCHANGED } from './inPlace.ts';
import { atLag, LagFields, lagSaid, LINK_SCHEMA, NO_LAG, typedLag, type TypedLag } from './LagFields.tsx';
import { PortFormButtons } from './PortFormButtons.tsx';

/** Racks with the duty to meet something outside. */
export const racksOutward = (intent: FabricIntent) =>
  intent.racks.filter((r) => (rackPatternOf(intent, r)?.duties ?? []).length > 0);

type Typed = Omit<OutsideLink, 'rack' | 'to' | 'speed' | 'fec' | 'lag'> &
  TypedDrive &
  TypedLag & { readonly rack: number | string; readonly to: string };

const linkOf = ({ rack, to, speed, fec, isLag, lag, ...rest }: Typed): OutsideLink => ({
  ...rest,
  rack: Number(rack),
  ...lagSaid({ isLag, lag }),
  ...(to === 'site' ? { to } : {}),
  ...driveSaid({ speed, fec }),
});

/** What a cable leads to. */
function FarFields({ mayBeSite, first = false }: { readonly mayBeSite: boolean; readonly first?: boolean }) {
  return (
    <>
      <TextField name="system" label="System" placeholder="offing-1" autoFocus={first} isRequired />
      <TextField name="farPort" label="Its port" placeholder="eth1" code isRequired />
      {mayBeSite && (
        <ChoiceField name="to" label="To" options={[{ id: 'site', name: 'another site' }]} none="an outside system" />
      )}
    </>
  );
}

/** Joins a port of a border to something outside. */
export function JoinForm({ onDone }: { readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { intent } = fabric;
  const makeEdits = useEdits(fabric.name);
  const racks = racksOutward(intent);
  const part = useFormPart<Typed>({
    schema: LINK_SCHEMA,
    initial: {
      rack: String(racks[0]?.number ?? ''),
      side: 'a',
      port: '',
      system: '',
      farPort: '',
      to: '',
      ...NO_LAG,
      ...NOTHING_TYPED,
    },
    keep: `outside link of ${fabric.name}`,
    base: '/edits/0/link',
  });
  const number = Number(part.rhf.watch('rack'));
  const pattern = rackPatternAt(intent, number);
  const close = (): void => {
    part.forget();
    onDone();
  };
  return (
    <Form
      part={part}
      onSend={async (typed) => {
        const made = await makeEdits([{ kind: 'joinOutside', link: linkOf(typed) }], true);
        if (made.ok) part.rhf.reset({ ...typed, port: '', farPort: '', lag: '' });
        return made.ok ? null : atLag(made);
      }}
      buttons={<FormButtons yes="Join" no="Close" onNo={close} />}
    >
      <Cap>Outside link</Cap>
      <H3>Join something outside</H3>
      <FarFields mayBeSite={pattern?.duties?.includes('site-gateway') === true} first />
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
      <LagFields />
      <DriveFields rack={number} port={String(part.rhf.watch('port'))} />
    </Form>
  );
}

/** A cable to something outside, in its place: what it leads to, how its port is driven; it is shut, opened or taken away. */
export function LinkForm({ known, onDone }: { readonly known: OutsideLink; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const { rack, side, port, shut } = known;
  const pattern = rackPatternAt(fabric.intent, rack);
  const part = useFormPart<Typed>({
    schema: LINK_SCHEMA,
    initial: { ...known, rack: String(rack), to: known.to ?? '', ...typedLag(known), ...typedDrive(known) },
    base: '/edits/0/link',
  });
  const { shut: _, ...open } = known;
  const spoken = fabric.intent.neighbours.filter((n) => n.rack === rack && n.side === side && n.port === port).length;
  return (
    <Form
      part={part}
      onSend={async (typed) => {
        const link: OutsideLink = { ...linkOf(typed), ...(shut ? { shut } : {}) };
        if (sameContent(link, known)) return UNCHANGED;
        const made = await makeEdits([{ kind: 'changeOutside', link }], true);
        return made.ok ? null : atLag(made);
      }}
      buttons={
        <PortFormButtons
          shut={shut}
          turn={{ kind: 'changeOutside', link: shut ? open : { ...known, shut: true } }}
          free={{ kind: 'leaveOutside', rack, side, port }}
          freeing="Take it away"
          onDone={onDone}
        />
      }
    >
      <Cap>Outside link</Cap>
      <H3>{known.system}</H3>
      <Faded>
        rack {rack}, {port}, leaf {side}
        {shut ? ', shut' : ''}
        {spoken === 0 ? '' : `; ${spoken} ${spoken === 1 ? 'session goes' : 'sessions go'} over it`}
      </Faded>
      <FarFields mayBeSite={pattern?.duties?.includes('site-gateway') === true} />
      <LagFields />
      <DriveFields rack={rack} port={port} />
    </Form>
  );
}
