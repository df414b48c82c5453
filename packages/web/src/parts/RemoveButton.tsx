import { useState } from 'react';
import { toast } from 'sonner';
import { AskDialog } from './AskDialog.tsx';
import { Button } from './basics.tsx';

/**
 * Takes something away after a question that says what becomes of what hangs on it; what is refused is said as it is.
 * @param remove answers why it was refused, or null
 */
export function RemoveButton({
  what,
  means,
  remove,
  onGone,
}: {
  /** In the middle of a sentence: `switch model TV-L48F`. */
  readonly what: string;
  readonly means: string;
  readonly remove: () => Promise<{ readonly detail: string } | null>;
  readonly onGone: () => void;
}) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button $kind="danger" onPress={() => setAsking(true)}>
        Remove …
      </Button>
      <AskDialog
        title={`Remove ${what}?`}
        yes="Remove"
        isOpen={asking}
        onClose={() => setAsking(false)}
        onYes={() => {
          setAsking(false);
          void remove().then((refused) => {
            if (refused) toast.error(refused.detail);
            else {
              toast.success(`The ${what} was removed`);
              onGone();
            }
          });
        }}
      >
        {means}
      </AskDialog>
    </>
  );
}
