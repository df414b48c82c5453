import { waiverSchema, type ProofReport, type Waiver } from '@anthemion/core';
import { addDays, formatISO } from 'date-fns';
import { useSearchParams } from 'react-router';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Faded, Row, Stack } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView } from './FabricFrame.tsx';

/** So long a rule is waived where nobody says otherwise. */
const DAYS = 30;

/** Design rules the fabric does not keep to, knowingly and for a time: who said so, why, until when. */
export function Waivers({ proof }: { readonly proof: ProofReport }) {
  const { fabric } = useFabricView();
  const [params, setParams] = useSearchParams();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const { waivers } = fabric.intent;
  const titleOf = (rule: string): string => proof.rules.find((r) => r.id === rule)?.title ?? rule;
  const asked = params.get('waive');
  const known = waivers.find((w) => w.rule === asked);
  const rule = may && (known || proof.rules.some((r) => r.id === asked)) ? asked : null;
  const toWaive = (of: string | null): void => setParams(of === null ? {} : { waive: of });
  return (
    <>
      {waivers.length > 0 && (
        <section aria-label="Waivers">
          <Cap>Waived</Cap>
          <ul>
            {waivers.map((w) => (
              <li key={w.rule}>
                <Row $gap={10}>
                  <span style={{ flex: 1 }}>
                    <b>{titleOf(w.rule)}</b>{' '}
                    <Faded>
                      until {w.until}, by {w.by}: {w.reason}
                    </Faded>
                  </span>
                  {may && <Button onPress={() => toWaive(w.rule)}>Change …</Button>}
                  {may && (
                    <Button onPress={() => void makeEdits([{ kind: 'removeWaiver', rule: w.rule }])}>End it</Button>
                  )}
                </Row>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Dialog title="Waive a rule" isOpen={rule !== null} onClose={() => toWaive(null)}>
        {rule !== null && (
          <WaiverForm
            key={rule}
            title={titleOf(rule)}
            initial={known ?? { rule, reason: '', until: inDays(DAYS), by: '' }}
            onDone={() => toWaive(null)}
          />
        )}
      </Dialog>
    </>
  );
}

function WaiverForm({
  title,
  initial,
  onDone,
}: {
  readonly title: string;
  readonly initial: Waiver;
  readonly onDone: () => void;
}) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const part = useFormPart<Waiver>({
    schema: waiverSchema,
    initial,
    keep: `waiver of ${fabric.name} ${initial.rule}`,
    base: '/edits/0/waiver',
  });
  return (
    <Form
      part={part}
      onSend={async (waiver) => {
        const made = await makeEdits([{ kind: 'putWaiver', waiver }], true);
        if (!made.ok) return made;
        onDone();
        return null;
      }}
      buttons={<FormButtons yes="Waive it" no="Cancel" onNo={() => (part.forget(), onDone())} />}
    >
      <Stack $gap={10}>
        <p>
          <b>{title}.</b> What the rule finds stays in the proof as a note and does not stand in the way of a change,
          until that day has passed. It is an edit like others: proved, approved, in the history.
        </p>
        <TextField name="reason" label="Why" placeholder="Second spine arrives in week 51" />
        <TextField name="until" label="Until (last day, UTC)" code />
      </Stack>
    </Form>
  );
}

const inDays = (days: number): string => formatISO(addDays(new Date(), days), { representation: 'date' });
