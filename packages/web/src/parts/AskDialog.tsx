import type { ReactNode } from 'react';
import { Button, Row, Stack } from './basics.tsx';
import { Dialog } from './Dialog.tsx';

/** A decision about what goes with what: what it means, yes or no. */
export function AskDialog({
  title,
  children,
  yes,
  isOpen,
  onYes,
  onClose,
}: {
  readonly title: string;
  readonly children: ReactNode;
  readonly yes: string;
  readonly isOpen: boolean;
  readonly onYes: () => void;
  readonly onClose: () => void;
}) {
  return (
    <Dialog title={title} isOpen={isOpen} onClose={onClose} width={440}>
      <Stack $gap={12}>
        <p>{children}</p>
        <Row>
          <Button $kind="danger" onPress={onYes}>
            {yes}
          </Button>
          <Button onPress={onClose}>Cancel</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}
