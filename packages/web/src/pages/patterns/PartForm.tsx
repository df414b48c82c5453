import { capital, problem } from '@anthemion/core';
import type { ReactNode } from 'react';
import type { FieldValues } from 'react-hook-form';
import { toast } from 'sonner';
import { api, notTaken } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { Button, H2, Row, Stack } from '../../parts/basics.tsx';
import { Form, type FormPart, type NotTaken } from '../../parts/Form.tsx';
import { RemoveButton } from '../../parts/RemoveButton.tsx';

/** What fabrics are made of, by where the API has it. */
const WORDS = { models: 'switch model', 'rack-patterns': 'rack pattern', 'fabric-patterns': 'fabric pattern' } as const;

/** The form of a model or a pattern: kept by its name, and taken away where nothing names it. */
export function PartForm<T extends FieldValues & { readonly name: string }>({
  of,
  name,
  taken,
  part,
  keep,
  onSaved,
  onGone,
  facts,
  children,
}: {
  readonly of: keyof typeof WORDS;
  /** Empty = a new one. */
  readonly name: string;
  /** Names that others of its kind have: a new one of such a name would take its place unseen. */
  readonly taken: readonly { readonly name: string }[];
  readonly part: FormPart<T>;
  /** Sends it. */
  readonly keep: (typed: T) => Promise<{ readonly error?: unknown }>;
  readonly onSaved: (name: string) => void;
  readonly onGone: () => void;
  /** What stands above its fields. */
  readonly facts?: ReactNode;
  readonly children: ReactNode;
}) {
  const may = useMay('designer');
  const [remove] = api.useRemovePartMutation();
  const word = WORDS[of];
  const send = async (typed: T): Promise<NotTaken | null> => {
    if (name === '' && taken.some((p) => p.name === typed.name)) {
      const finding = problem(
        'object-new',
        '/name',
        `There is already a ${word} ${typed.name}.`,
        'Choose another name.',
      );
      return { findings: [finding], detail: finding.message };
    }
    const no = notTaken(await keep(typed));
    if (no === null) {
      toast.success(`${capital(word)} ${typed.name} is kept`);
      onSaved(typed.name);
    }
    return no;
  };
  return (
    <Stack $gap={14}>
      <H2>{name || `A new ${word}`}</H2>
      {facts}
      <Form
        part={part}
        onSend={send}
        buttons={
          may && (
            <Row>
              <Button type="submit" $kind="main" isDisabled={part.rhf.formState.isSubmitting}>
                Keep {word}
              </Button>
              {name !== '' && (
                <RemoveButton
                  what={`${word} ${name}`}
                  means="Fabrics that were laid with it have their own copy, and stay as they are. It is refused while something else here names it."
                  remove={async () => notTaken(await remove({ of, name }))}
                  onGone={onGone}
                />
              )}
            </Row>
          )
        }
      >
        {children}
      </Form>
    </Stack>
  );
}
