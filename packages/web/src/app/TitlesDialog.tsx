import { changePatchRequest, type ChangeAnswer, type ChangeTitles } from '@anthemion/contract';
import { Button, Faded, Row } from '../parts/basics.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Form, useFormPart } from '../parts/Form.tsx';
import { api, notTaken } from './api.ts';
import { TitleFields } from './TitleFields.tsx';

/** Title, reason and ticket of an open change, to be changed. An approval was of what they said before. */
export function TitlesDialog({ change, onClose }: { readonly change: ChangeAnswer; readonly onClose: () => void }) {
  const [retitle] = api.useRetitleMutation();
  const part = useFormPart<ChangeTitles>({
    schema: changePatchRequest,
    initial: { title: change.title, reason: change.reason, ticket: change.ticket },
    keep: `titles ${change.id}`,
  });
  const close = (): void => {
    part.forget();
    onClose();
  };
  return (
    <Dialog title="The change" isOpen onClose={close}>
      <Form
        part={part}
        onSend={async (titles) => {
          const no = notTaken(await retitle({ id: change.id, version: change.version, ...titles }));
          if (no === null) onClose();
          return no;
        }}
        buttons={
          <Row>
            <Button type="submit" $kind="main">
              Keep
            </Button>
            <Button onPress={close}>Cancel</Button>
          </Row>
        }
      >
        <TitleFields />
        {change.state === 'Approved' && (
          <Faded>It was approved as it stands: after this it is to be approved again.</Faded>
        )}
      </Form>
    </Dialog>
  );
}
