import { TextField } from '../parts/Form.tsx';

/** Title, reason and ticket of a change. */
export function TitleFields() {
  return (
    <>
      <TextField name="title" label="Title" placeholder="Echo store in the Lamp hall" autoFocus isRequired />
      <TextField name="reason" label="Reason" placeholder="Why it is done; stands in the history" />
      <TextField name="ticket" label="Ticket" placeholder="FCO-218" />
    </>
  );
}
