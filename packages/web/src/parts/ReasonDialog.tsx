import { useState, type ReactNode } from 'react';
import { Button, Row, Stack } from './basics.tsx';
import { Dialog } from './Dialog.tsx';
import { TextInput } from './fields.tsx';

const SHORTEST = 3;

/** A decision that takes a reason: what it means, the reason, yes or no. */
export function ReasonDialog({
  title,
  children,
  placeholder,
  yes,
  no,
  isOpen,
  isBusy = false,
  onYes,
  onClose,
}: {
  readonly title: string;
  /** What it means. */
  readonly children: ReactNode;
  readonly placeholder: string;
  readonly yes: string;
  readonly no: string;
  readonly isOpen: boolean;
  readonly isBusy?: boolean;
  readonly onYes: (reason: string) => void;
  readonly onClose: () => void;
}) {
  const [reason, setReason] = useState('');
  return (
    <Dialog title={title} isOpen={isOpen} onClose={onClose} width={460}>
      <Stack $gap={12}>
        {children}
        <TextInput label="Reason" value={reason} onChange={setReason} placeholder={placeholder} />
        <Row>
          <Button $kind="danger" onPress={() => onYes(reason)} isDisabled={isBusy || reason.trim().length < SHORTEST}>
            {yes}
          </Button>
          <Button onPress={onClose}>{no}</Button>
        </Row>
      </Stack>
    </Dialog>
  );
}
