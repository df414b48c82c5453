import { importRequest } from '@anthemion/contract';
import { toast } from 'sonner';
import { api, notTaken } from '../../app/api.ts';
import { Faded } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';

const EXAMPLE =
  'serial,model,address,port,location,account,hostkey\nTVL9001,TV-L48F,10.99.0.21,22,Mole hall row A,halls,SHA256:…';

/** Takes in a list of switches, every line or none. */
export function ImportDialog({
  pasted,
  isOpen,
  onClose,
}: {
  /** What was pasted into the table of switches; empty = nothing. */
  readonly pasted: string;
  readonly isOpen: boolean;
  readonly onClose: () => void;
}) {
  return (
    <Dialog title="Import switches" isOpen={isOpen} onClose={onClose} width={640}>
      <ImportForm pasted={pasted} onClose={onClose} />
    </Dialog>
  );
}

function ImportForm({ pasted, onClose }: { readonly pasted: string; readonly onClose: () => void }) {
  const [importNow] = api.useImportSwitchesMutation();
  const part = useFormPart<{ csv: string }>({
    schema: importRequest,
    initial: { csv: pasted },
    // What was pasted now goes before what was typed another time.
    ...(pasted === '' ? { keep: 'a list of switches' } : {}),
    // Findings are about lines of it, and stand together at the foot.
    base: '/csv',
  });
  const cancel = (): void => {
    part.forget();
    onClose();
  };
  return (
    <Form
      part={part}
      onSend={async ({ csv }) => {
        const made = await importNow(csv);
        if (!made.data) {
          const no = notTaken(made)!;
          const n = no.findings.length;
          if (n > 0)
            part.rhf.setError('csv', {
              message: `${n} ${n === 1 ? 'line is' : 'lines are'} not sound; nothing was imported.`,
            });
          return no;
        }
        toast.success(`${made.data.imported} switches imported`);
        onClose();
        return null;
      }}
      buttons={<FormButtons yes="Import" isDisabled={part.rhf.watch('csv').trim() === ''} onNo={cancel} />}
    >
      <Faded>
        Paste the list, or choose a file. Columns: serial, model, address; port, location, account and hostkey may be
        left out. Nothing is imported unless every line is sound. Without a host key, the one it shows first waits for
        your yes.
      </Faded>
      <input
        type="file"
        accept=".csv,text/csv"
        aria-label="CSV file"
        onChange={(e) => void e.target.files?.[0]?.text().then((text) => part.rhf.setValue('csv', text))}
      />
      <TextField name="csv" label="CSV" lines={9} placeholder={EXAMPLE} />
    </Form>
  );
}
