import {
  LINE_FORMS,
  listEntries,
  listLines,
  policyKey,
  POLICY_WORDS,
  type ListIs,
  type RoutePolicy,
} from '@anthemion/core';
import { ChoiceField, ParsedField } from '../../../parts/Form.tsx';
import { useFabricView } from '../FabricFrame.tsx';
import { PolicyForm, usePolicyPart } from './PolicyForm.tsx';

type List = Exclude<RoutePolicy, { readonly is: 'route-map' }>;
interface Typed {
  readonly is: ListIs;
  readonly name: string;
  /** Entries, or the text where it cannot be read. */
  readonly entries: List['entries'] | string;
}
const KINDS: readonly ListIs[] = ['prefix-list', 'community-list', 'path-list'];
const HINTS: Readonly<Record<ListIs, string>> = {
  'prefix-list': 'A line for each, of one family; the first that a prefix meets decides, what meets none is denied',
  'community-list':
    'A line for each; a route meets one if it has all of its communities, or if all that it has are as an expression: permit /64701:7[0-9]/, permit large /64701:7:/',
  'path-list': 'A line for each, an expression over the AS numbers of a path; _ is a gap between them or an end',
};
const listOf = ({ is, name, entries }: Typed): List => ({ is, name, entries }) as List;

/**
 * Adds a list that route maps ask, or says it otherwise.
 * @param of the key of one that is there; null = a new one
 */
export function ListForm({ of, onDone }: { readonly of: string | null; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const { policies } = fabric.intent;
  const known = policies.find((p): p is List => p.is !== 'route-map' && policyKey(p) === of);
  const part = usePolicyPart<Typed>(known, 'list', known ?? { is: 'prefix-list', name: '', entries: '' }, listOf);
  const is = part.rhf.watch('is');
  return (
    <PolicyForm
      known={known}
      part={part}
      policyOf={listOf}
      title="A list that route maps ask"
      example="far-nets"
      onDone={onDone}
    >
      {!known && <ChoiceField name="is" label="Kind" options={KINDS.map((id) => ({ id, name: POLICY_WORDS[id] }))} />}
      <ParsedField
        key={is}
        name="entries"
        label="Entries"
        lines={8}
        code
        placeholder={LINE_FORMS[is]}
        hint={HINTS[is]}
        parse={(text) => {
          const read = listEntries(is, text);
          return 'entries' in read ? read.entries : null;
        }}
        show={(entries) => listLines({ is, name: '', entries } as List)}
        bad={(text) => {
          const read = listEntries(is, text);
          return 'wrong' in read && text !== '' ? read.wrong : undefined;
        }}
      />
    </PolicyForm>
  );
}
