import {
  applyEdit,
  policyKey,
  POLICY_WORDS,
  problem,
  schemaOfEdit,
  validate,
  type Edit,
  type FabricIntent,
  type RoutePolicy,
} from '@anthemion/core';
import type { ReactNode } from 'react';
import type { FieldValues } from 'react-hook-form';
import { object, ValidationError } from 'yup';
import { useEdits } from '../../../app/useEdits.ts';
import { Button, Cap, H3 } from '../../../parts/basics.tsx';
import { Form, FormButtons, TextField, useFormPart, type FormPart } from '../../../parts/Form.tsx';
import { useFabricView } from '../FabricFrame.tsx';
import { putInPlace, removal } from '../inPlace.ts';

/** A schema that judges what is typed as the server will: the policy it makes, put into the fabric. */
const judgedAs = <T,>(policyOf: (typed: T) => RoutePolicy, intent: FabricIntent) =>
  object().test('policy', '', (typed) => {
    const edit: Edit = { kind: 'putPolicy', policy: policyOf(typed as T) };
    const sound = validate<Edit>(schemaOfEdit('putPolicy'), edit);
    const { findings } = 'findings' in sound ? sound : applyEdit(intent, sound.value);
    if (findings.length === 0) return true;
    return new ValidationError(
      findings.map(
        (f) =>
          new ValidationError(
            f.cure === undefined ? f.message : `${f.message} ${f.cure}`,
            undefined,
            (f.path ?? '').split('/').slice(2).join('.'),
          ),
      ),
    );
  });

/** What is typed of a policy, judged by what it makes of the fabric; kept until it is taken. */
export function usePolicyPart<T extends FieldValues>(
  known: RoutePolicy | undefined,
  sort: 'list' | 'map',
  initial: T,
  policyOf: (typed: T) => RoutePolicy,
): FormPart<T> {
  const { fabric } = useFabricView();
  return useFormPart<T>({
    schema: judgedAs(policyOf, fabric.intent),
    initial,
    keep: `policy ${known ? policyKey(known) : `new ${sort}`} of ${fabric.name}`,
    base: '/edits/0/policy',
  });
}

/**
 * The form of a list or a route map around its fields: a new one is put, never in the place of another of its name; one that
 * is there is put otherwise, or taken away. One that is used stays, and who uses it is said.
 */
export function PolicyForm<T extends FieldValues>({
  known,
  part,
  policyOf,
  title,
  example,
  onDone,
  children,
}: {
  /** What it was; undefined = it is new. */
  readonly known: RoutePolicy | undefined;
  readonly part: FormPart<T>;
  readonly policyOf: (typed: T) => RoutePolicy;
  /** Of a new one. */
  readonly title: string;
  /** How one may be called. */
  readonly example: string;
  readonly onDone: () => void;
  readonly children: ReactNode;
}) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const was = known && { key: policyKey(known), item: known };
  const send = (typed: T) => {
    const policy = policyOf(typed);
    const message = `There is a ${POLICY_WORDS[policy.is]} ${policy.name}.`;
    const cure = 'Change that one, or choose another name.';
    return putInPlace(makeEdits, {
      kind: 'policy',
      edit: { kind: 'putPolicy', policy },
      item: policy,
      keyOf: policyKey,
      known,
      all: fabric.intent.policies,
      taken: () => problem('object-new', '/edits/0/policy/name', message, cure),
    });
  };
  const remove = async (): Promise<void> => {
    const made = await makeEdits([removal('policy', was!)]);
    if (!made.ok) return;
    part.forget();
    onDone();
  };
  return (
    <Form
      part={part}
      onSend={send}
      onEnd={onDone}
      buttons={
        <FormButtons yes={known ? 'Change' : 'Add'} no="Close">
          {known && (
            <Button $kind="danger" onPress={() => void remove()}>
              Remove
            </Button>
          )}
        </FormButtons>
      }
    >
      <Cap>Routing policy</Cap>
      <H3>{known ? `Change ${known.name}` : title}</H3>
      {!known && <TextField name="name" label="Name" placeholder={example} code isRequired />}
      {children}
    </Form>
  );
}
