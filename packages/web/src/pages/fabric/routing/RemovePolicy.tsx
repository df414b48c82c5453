import type { RoutePolicy } from '@anthemion/core';
import { useEdits } from '../../../app/useEdits.ts';
import { Button } from '../../../parts/basics.tsx';
import { useFabricView } from '../FabricFrame.tsx';

/** Takes a list or a map away; one that is used stays, and who uses it is said. */
export function RemovePolicy({ policy, onDone }: { readonly policy: RoutePolicy; readonly onDone: () => void }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  return (
    <Button
      $kind="danger"
      onPress={() =>
        void makeEdits([{ kind: 'removePolicy', is: policy.is, name: policy.name }]).then((made) => {
          if (made.ok) onDone();
        })
      }
    >
      Remove
    </Button>
  );
}
