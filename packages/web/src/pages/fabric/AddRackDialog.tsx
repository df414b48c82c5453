import { groupBy, plural, proposeRack, rackSchema, sameContent, shapeOf, type FabricIntent } from '@anthemion/core';
import type { PartsAnswer } from '@anthemion/contract';
import { string, type AnyObject, type ObjectSchema } from 'yup';
import { api } from '../../app/api.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Faded, Note } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { ChoiceField, Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView } from './FabricFrame.tsx';

const SCHEMA = (rackSchema as unknown as ObjectSchema<AnyObject>).pick(['pattern', 'place', 'pod']).shape({
  carries: string(),
});

/** Words for very many networks are too long to choose by. */
const MOST_NAMED = 3;
/** What racks of the fabric carry, each choice once: by its networks, and the racks that have just these. */
export function carriedChoices({ racks, networks }: FabricIntent): {
  readonly id: string;
  readonly networks: readonly string[];
  readonly name: string;
  readonly note: string;
}[] {
  const sets = racks.map(({ number }) => ({
    number,
    carried: networks.flatMap((n) => (n.racks.includes(number) ? n.name : [])),
  }));
  return [...groupBy(sets, (s) => s.carried.join()).values()].flatMap((alike) => {
    const { number, carried } = alike[0]!;
    if (carried.length === 0) return [];
    const more = carried.length - MOST_NAMED;
    const name = `${carried.slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
    const others = alike.length > 1 ? ` and ${plural(alike.length - 1, 'rack')} more` : '';
    return [{ id: String(number), networks: carried, name, note: `as rack ${number}${others}` }];
  });
}

export function AddRackDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const { data: parts } = api.usePartsQuery();
  const first = parts && (fabric.intent.rackPatterns[0] ?? parts.rackPatterns[0])?.name;
  return (
    <Dialog title="Add a rack" isOpen={isOpen} onClose={onClose} width={400}>
      {parts && first !== undefined && (
        <RackForm name={fabric.name} intent={fabric.intent} parts={parts} first={first} onClose={onClose} />
      )}
    </Dialog>
  );
}

function RackForm({
  name,
  intent,
  parts,
  first,
  onClose,
}: {
  readonly name: string;
  readonly intent: FabricIntent;
  readonly parts: PartsAnswer;
  readonly first: string;
  readonly onClose: () => void;
}) {
  const makeEdits = useEdits(name);
  const part = useFormPart<{
    readonly pattern: string;
    readonly place: string;
    readonly pod?: string;
    readonly carries: string;
  }>({
    schema: SCHEMA,
    initial: { pattern: first, place: '', carries: '' },
    keep: `rack of ${name}`,
    base: '/edits/0/rack',
  });
  const cancel = (): void => {
    part.forget();
    onClose();
  };
  const [chosen, place, pod] = part.rhf.watch(['pattern', 'place', 'pod']);
  // A fabric keeps the patterns it was made by: a rack is added by those, whatever the catalogue says today.
  const own = intent.rackPatterns.find((p) => p.name === chosen);
  const described = parts.rackPatterns.find((p) => p.name === chosen);
  const pattern = own ?? described ?? intent.rackPatterns[0] ?? parts.rackPatterns[0]!;
  const model = parts.models.find((m) => m.name === pattern.leafModel);
  const ownModel = intent.models.find((m) => m.name === pattern.leafModel);
  const rack = proposeRack(intent, pattern, place, pod ? Number(pod) : undefined);
  const choices = carriedChoices(intent);
  const renew = (): Promise<unknown> =>
    makeEdits([
      ...(model && !sameContent(model, ownModel) ? [{ kind: 'putModel' as const, model }] : []),
      { kind: 'putRackPattern', rackPattern: described! },
    ]);
  return (
    <Form
      part={part}
      onSend={async ({ carries }) => {
        const wanted = new Set(choices.find((c) => c.id === carries)?.networks);
        const made = await makeEdits(
          [
            {
              kind: 'addRack',
              rack,
              ...(own ? {} : { rackPattern: pattern }),
              ...(model && !ownModel ? { model } : {}),
            },
            ...intent.networks.flatMap((n) =>
              wanted.has(n.name)
                ? [{ kind: 'carryNetwork' as const, name: n.name, racks: [...n.racks, rack.number] }]
                : [],
            ),
          ],
          true,
        );
        if (!made.ok) return made;
        onClose();
        return null;
      }}
      buttons={<FormButtons yes={`Add rack ${rack.number}`} onNo={cancel} />}
    >
      <ChoiceField
        name="pattern"
        label="Rack pattern"
        options={parts.rackPatterns.map((p) => ({
          id: p.name,
          name: p.name,
          note: `${p.kind === 'single' ? 'one leaf' : 'ESI pair'} · ${p.leafModel}`,
        }))}
      />
      {rack.pod !== undefined && (
        <ChoiceField
          name="pod"
          label="Pod"
          placeholder={`${rack.pod}, with the fewest racks`}
          options={Array.from({ length: intent.pods ?? 1 }, (_, i) => ({ id: String(i + 1), name: `pod ${i + 1}` }))}
        />
      )}
      <TextField name="place" label="Place" placeholder="Lamp hall, row C" />
      {choices.length > 0 && (
        <ChoiceField
          name="carries"
          label="Carries"
          none="Nothing yet"
          options={choices}
          hint="more, or others, are chosen at the network, under Tenants"
        />
      )}
      {own && described && !sameContent(own, described) && (
        <Note $tone="wait">
          {name} was made by another {pattern.name} than the catalogue has now. The rack is added by the one of the
          fabric. <Button onPress={() => void renew()}>Make {pattern.name} anew for all its racks</Button>
        </Note>
      )}
      <Faded style={{ fontSize: 13 }}>
        Becomes rack {rack.number}
        {rack.pod !== undefined && ` in pod ${rack.pod}`}; its leaves take position {rack.slot}
        {shapeOf(intent) === 'collapsed' ? ' among the others' : ' on the spines'}. No cable or value of another rack
        moves.
      </Faded>
    </Form>
  );
}
