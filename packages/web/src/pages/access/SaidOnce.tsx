import { Button, Copyable, Mono, Note, Row } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';

/** Something that is shown this once: a password that was given out, or a token. */
export function SaidOnce({
  title,
  word,
  children,
  onClose,
}: {
  readonly title: string;
  /** Null = nothing to show. */
  readonly word: string | null;
  readonly children: string;
  readonly onClose: () => void;
}) {
  return (
    <Dialog title={title} isOpen={word !== null} onClose={onClose} width={520}>
      <Copyable text={word ?? ''}>
        <Mono style={{ fontSize: 15, overflowWrap: 'anywhere' }} data-testid="said-once">
          {word}
        </Mono>
      </Copyable>
      <Note $tone="wait" style={{ marginTop: 12 }}>
        {children} It is not shown again.
      </Note>
      <Row style={{ marginTop: 14 }}>
        <Button $kind="main" onPress={onClose}>
          I have it
        </Button>
      </Row>
    </Dialog>
  );
}
