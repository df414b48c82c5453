import {
  LINE_FORMS,
  listEntries,
  listLines,
  policyKey,
  POLICY_WORDS,
  type ListIs,
  type RoutePolicy,
} from '@anthemion/core';
import { Cap, H3 } from '../../../parts/basics.tsx';
import { ChoiceField, Form, FormButtons, TextField, useFormPart } from '../../../parts/Form.tsx';
import { ParsedField } from '../../../parts/FormFields.tsx';
import { useFabricView } from '../FabricFrame.tsx';
import { judgedAs } from './policyJudge.ts';
import { RemovePolicy } from './RemovePolicy.tsx';
import { usePutPolicy } from './usePutPolicy.ts';

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
  'community-list': 'A line for each; a route meets one if it has all of its communities',
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
  const put = usePutPolicy(known);
  const part = useFormPart<Typed>({
    schema: judgedAs(listOf, fabric.intent),
    initial: known ?? { is: 'prefix-list', name: '', entries: '' },
    keep: `policy ${of ?? 'new list'} of ${fabric.name}`,
    base: '/edits/0/policy',
  });
  const is = part.rhf.watch('is');
  const close = (): void => {
    part.forget();
    onDone();
  };
  return (
    <Form
      part={part}
      onSend={async (typed) => {
        const refused = await put(listOf(typed));
        if (refused === null) close();
        return refused;
      }}
      buttons={
        <FormButtons yes={known ? 'Change' : 'Add'} no="Close" onNo={close}>
          {known && <RemovePolicy policy={known} onDone={close} />}
        </FormButtons>
      }
    >
      <Cap>Routing policy</Cap>
      <H3>{known ? `Change ${known.name}` : 'A list that route maps ask'}</H3>
      {!known && (
        <>
          <ChoiceField name="is" label="Kind" options={KINDS.map((id) => ({ id, name: POLICY_WORDS[id] }))} />
          <TextField name="name" label="Name" placeholder="far-nets" code isRequired />
        </>
      )}
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
    </Form>
  );
}
