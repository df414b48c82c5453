import type { Edit } from '@anthemion/core';
import { useState } from 'react';
import { useEdits } from '../../app/useEdits.ts';
import { Button } from '../../parts/basics.tsx';
import { FormButtons } from '../../parts/Form.tsx';
import { useFabricView } from './FabricFrame.tsx';

interface Props {
  /** Is the port shut? */
  readonly shut: boolean | undefined;
  /** What opens it, or shuts it. */
  readonly turn: Edit;
  /** What takes away what is on it, and how that is called. */
  readonly free: Edit;
  readonly freeing: string;
  readonly onDone: () => void;
}

/** Buttons below what is on a port: it is changed, the port shut or opened, or freed. A second click does nothing while an edit is made. */
export function PortFormButtons({ shut, turn, free, freeing, onDone }: Props) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const [busy, setBusy] = useState(false);
  const make = async (edit: Edit): Promise<boolean> => {
    setBusy(true);
    const { ok } = await makeEdits([edit]);
    setBusy(false);
    return ok;
  };
  return (
    <FormButtons yes="Change" no="Close" onNo={onDone}>
      <Button isDisabled={busy} onPress={() => void make(turn)}>
        {shut ? 'Open the port' : 'Shut the port'}
      </Button>
      <Button $kind="danger" isDisabled={busy} onPress={() => void make(free).then((ok) => ok && onDone())}>
        {freeing}
      </Button>
    </FormButtons>
  );
}
