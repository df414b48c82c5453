import { policyKey, policySays, type FabricIntent, type RouteMapSaid } from '@anthemion/core';
import { useState } from 'react';
import { useFieldArray, useWatch, type UseFormReturn } from 'react-hook-form';
import { styled } from 'styled-components';
import { Button, Cap, Faded, Row } from '../../../parts/basics.tsx';
import { ChoiceField, NumberField, TextField, TickField } from '../../../parts/Form.tsx';
import { token } from '../../../parts/theme.ts';
import { useFabricView } from '../FabricFrame.tsx';
import { mapOf, typedEntry, type TypedEntry, type TypedMap } from './mapTyped.ts';
import { PolicyForm, usePolicyPart } from './PolicyForm.tsx';

const ORIGINS = ['igp', 'egp', 'incomplete'].map((id) => ({ id, name: id }));
const WAYS = [
  { id: 'permit', name: 'permits', note: 'and does what is said below' },
  { id: 'deny', name: 'denies', note: 'the route goes no further' },
];
const HOW = [
  { id: 'replace', name: 'in place of its own' },
  { id: 'add', name: 'beside its own' },
  { id: 'none', name: 'it has none any more' },
];
const NUMBERS_APART = 10;

/** Names of the fabric’s policies of a kind. */
const named = ({ policies }: FabricIntent, is: string, but?: string) =>
  policies.flatMap((p) => (p.is === is && p.name !== but ? { id: p.name, name: p.name } : []));

/**
 * Adds a route map, or says it otherwise, entry by entry.
 * @param of the key of one that is there; null = a new one
 */
export function MapForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { intent } = fabric;
  const known = intent.policies.find((p): p is RouteMapSaid => p.is === 'route-map' && policyKey(p) === of);
  const entries = (known?.entries ?? [{ seq: NUMBERS_APART, permit: true }]).map(typedEntry);
  const part = usePolicyPart<TypedMap>(known, 'map', { name: known?.name ?? '', entries }, mapOf);
  const { fields, append, remove } = useFieldArray({ control: part.rhf.control, name: 'entries' as never });
  const [open, setOpen] = useState<number | null>(fields.length === 1 ? 0 : null);
  const wrong = (i: number): boolean => part.rhf.formState.errors.entries?.[i] !== undefined;
  return (
    <PolicyForm known={known} part={part} policyOf={mapOf} title="A route map" example="far-exit" onDone={onDone}>
      <Faded>
        The first entry that a route meets decides; what meets none is denied. It is used by its name: by sessions
        (Outside, the neighbour), and by VRFs for what they tell of their own (Tenants).
      </Faded>
      {fields.map((field, i) => (
        <Entry key={field.id} aria-label={`Entry ${i + 1}`} $wrong={wrong(i)}>
          <Row>
            <EntryWords i={i} rhf={part.rhf} intent={intent} />
            {open !== i && !wrong(i) && (
              <Button onPress={() => setOpen(i)} aria-label={`Change entry ${i + 1}`}>
                Change
              </Button>
            )}
            {fields.length > 1 && (
              <Button
                aria-label={`Take entry ${i + 1} away`}
                onPress={() => {
                  remove(i);
                  setOpen(null);
                }}
              >
                −
              </Button>
            )}
          </Row>
          {(open === i || wrong(i)) && <EntryFields i={i} rhf={part.rhf} intent={intent} own={known?.name} />}
        </Entry>
      ))}
      <div>
        <Button
          onPress={() => {
            const last = Number(part.rhf.getValues('entries').at(-1)?.seq) || 0;
            append(typedEntry({ seq: (Math.floor(last / NUMBERS_APART) + 1) * NUMBERS_APART, permit: true }) as never);
            setOpen(fields.length);
          }}
        >
          Add an entry
        </Button>
      </div>
    </PolicyForm>
  );
}

interface OfEntry {
  readonly i: number;
  readonly rhf: UseFormReturn<TypedMap>;
  readonly intent: FabricIntent;
}

/** What an entry says, in words; it alone is drawn anew with each key. */
function EntryWords({ i, rhf, intent }: OfEntry) {
  const typed = useWatch({ control: rhf.control, name: `entries.${i}` as never }) as TypedEntry;
  const [said] = policySays(mapOf({ name: '', entries: [typed] }), intent.policies);
  return <span style={{ flex: 1 }}>{said}</span>;
}

/** What one entry asks of a route, and what it makes of it. */
function EntryFields({ i, rhf, intent, own }: OfEntry & { readonly own: string | undefined }) {
  const at = `entries.${i}` as const;
  const [communities, way] = useWatch({
    control: rhf.control,
    name: [`${at}.match.communities`, `${at}.way`] as never,
  }) as unknown as readonly string[];
  const lists = {
    prefixes: named(intent, 'prefix-list'),
    communities: named(intent, 'community-list'),
    paths: named(intent, 'path-list'),
    maps: named(intent, 'route-map', own),
  };
  return (
    <>
      <Pairs>
        <NumberField name={`${at}.seq`} label="Number" isRequired />
        <ChoiceField name={`${at}.way`} label="What it does" options={WAYS} />
      </Pairs>
      <Cap>A route it meets</Cap>
      <Pairs>
        <ChoiceField name={`${at}.match.prefixes`} label="Prefix list" options={lists.prefixes} none="any" />
        <ChoiceField name={`${at}.match.communities`} label="Community list" options={lists.communities} none="any" />
        {communities !== '' && <TickField name={`${at}.match.exactly`} label="It has no others" />}
        <ChoiceField name={`${at}.match.path`} label="AS path list" options={lists.paths} none="any" />
        <ChoiceField name={`${at}.match.origin`} label="Origin" options={ORIGINS} none="any" />
        <NumberField name={`${at}.match.metric`} label="Metric (MED)" placeholder="any" />
        <NumberField name={`${at}.match.localPreference`} label="Local preference" placeholder="any" />
        <NumberField name={`${at}.match.tag`} label="Tag" placeholder="any" />
        <TextField name={`${at}.match.peer`} label="Heard from" placeholder="anybody" code />
        <ChoiceField name={`${at}.match.nextHops`} label="Next hop in list" options={lists.prefixes} none="any" />
      </Pairs>
      {way === 'permit' && (
        <>
          <Cap>What it gets</Cap>
          <Pairs>
            <NumberField name={`${at}.set.localPreference`} label="Local preference" placeholder="as it is" />
            <NumberField name={`${at}.set.metric`} label="Metric (MED)" placeholder="as it is" />
            <NumberField name={`${at}.set.metricBy`} label="Added to it" placeholder="nothing" />
            <NumberField name={`${at}.set.weight`} label="Weight" placeholder="as it is" />
            <ChoiceField name={`${at}.set.origin`} label="Origin" options={ORIGINS} none="as it is" />
            <TextField name={`${at}.set.prepend`} label="Before the path" placeholder="64710 64710" code />
            <NumberField name={`${at}.set.prependFirst`} label="First AS again" placeholder="0 times" />
            <TextField name={`${at}.set.exclude`} label="Out of the path" placeholder="64799" code />
            <NumberField name={`${at}.set.bandwidth`} label="Mb/s of its link" placeholder="not said" />
            <TextField name={`${at}.set.communities`} label="Communities" placeholder="64710:20 no-export" code />
            <ChoiceField name={`${at}.set.how`} label="Those are" options={HOW} />
            <ChoiceField
              name={`${at}.set.withoutCommunities`}
              label="Without those of"
              options={lists.communities}
              none="no list"
            />
            <TextField name={`${at}.set.nextHop`} label="Next hop" placeholder="as it is" code />
          </Pairs>
          <Faded>
            A site of origin, soo:64710:7, is always put beside what is there. A next hop is an address of IPv4 next
            door, neighbour, or unchanged.
          </Faded>
          <Cap>Then</Cap>
          <Pairs>
            <ChoiceField name={`${at}.call`} label="If map permits" options={lists.maps} none="none" />
            <NumberField name={`${at}.goTo`} label="Then entry" placeholder="ends here" />
            <TickField name={`${at}.next`} label="Then the next entry" />
          </Pairs>
          <Faded>Where it goes on, an entry after it has to take the route as well; else it is denied.</Faded>
        </>
      )}
    </>
  );
}

/** Two fields beside each other, in the width of the margin. */
const Pairs = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: start;
`;
const Entry = styled.section<{ readonly $wrong: boolean }>`
  border-top: 1px solid ${({ $wrong }) => token($wrong ? 'madder' : 'rule-soft')};
  padding-top: 8px;
  display: grid;
  gap: 10px;
`;
