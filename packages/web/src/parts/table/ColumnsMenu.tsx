import { Columns3 } from 'lucide-react';
import { Dialog, DialogTrigger } from 'react-aria-components';
import { styled } from 'styled-components';
import { Button, IconButton } from '../basics.tsx';
import { ChoicePopover, Tick } from '../fields.tsx';

/** Which columns of a table are shown; the first one, the name, always is. */
export function ColumnsMenu({
  label,
  columns,
  hidden,
  onHidden,
  onReset,
}: {
  readonly label: string;
  readonly columns: readonly { readonly id: string; readonly title: string }[];
  readonly hidden: readonly string[];
  readonly onHidden: (hidden: readonly string[]) => void;
  readonly onReset: () => void;
}) {
  return (
    <DialogTrigger>
      <IconButton aria-label={`Columns of ${label}`}>
        <Columns3 size={15} />
      </IconButton>
      <ChoicePopover>
        <Dialog aria-label={`Columns of ${label}`}>
          <List>
            {columns.slice(1).map((c) => (
              <Tick
                key={c.id}
                label={c.title}
                value={!hidden.includes(c.id)}
                onChange={(on) => onHidden(on ? hidden.filter((h) => h !== c.id) : [...hidden, c.id])}
              />
            ))}
            <Button onPress={onReset}>As it came</Button>
          </List>
        </Dialog>
      </ChoicePopover>
    </DialogTrigger>
  );
}
const List = styled.div`
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 8px 10px;
`;
