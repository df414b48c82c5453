import { takeFileRequest } from '@anthemion/contract';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, notTaken } from '../../app/api.ts';
import { changeOpened, useAppDispatch } from '../../app/store.ts';
import { Faded } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Form, FormButtons, TextField, useFormPart } from '../../parts/Form.tsx';
import { useFabricView } from './FabricFrame.tsx';

/** Takes the intent of a fabric from a file: what it would change is a change like any other. */
export function IntentFileDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  return (
    <Dialog title="Take intent from a file" isOpen={isOpen} onClose={onClose} width={680}>
      <IntentFileForm onClose={onClose} />
    </Dialog>
  );
}

function IntentFileForm({ onClose }: { readonly onClose: () => void }) {
  const { fabric } = useFabricView();
  const [take] = api.useTakeFileMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const part = useFormPart<{ text: string; title: string }>({
    schema: takeFileRequest,
    initial: { text: '', title: '' },
    keep: `intent file of ${fabric.name}`,
    // Findings are about lines of it, and stand together at the foot.
    base: '/text',
  });
  return (
    <Form
      part={part}
      onSend={async ({ text, title }) => {
        const taken = await take({ name: fabric.name, text, title });
        if (!taken.data) {
          const no = notTaken(taken)!;
          if (no.findings.length > 0)
            part.rhf.setError('text', { message: 'It cannot be taken; no change was opened.' });
          return no;
        }
        const { change, edits } = taken.data;
        toast.success(`It changes ${edits.length === 1 ? 'one thing' : `${edits.length} things`}; the change is open`);
        dispatch(changeOpened(change));
        void navigate(`/changes/${change}`);
        return null;
      }}
      buttons={
        <FormButtons
          yes="Show what it changes"
          isDisabled={part.rhf.watch('text').trim() === ''}
          onNo={() => {
            part.forget();
            onClose();
          }}
        />
      }
    >
      <Faded>
        Paste an intent file of {fabric.name}, or choose one. What it says otherwise than what is live becomes the edits
        of a new change, which is proved and shown; nothing is touched before it is approved and rolled out. Values that
        it does not choose stay as they are, or are drawn.
      </Faded>
      <input
        type="file"
        accept=".yaml,.yml,.json,text/yaml,application/json"
        aria-label="Intent file"
        onChange={(e) => void e.target.files?.[0]?.text().then((text) => part.rhf.setValue('text', text))}
      />
      <TextField name="text" label="Intent" lines={12} placeholder={'anthemion: 1\nfabric:\n  name: …'} code />
      <TextField name="title" label="Title of the change" placeholder={`${fabric.name} as its file says`} />
    </Form>
  );
}
