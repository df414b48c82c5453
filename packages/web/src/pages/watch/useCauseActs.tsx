import type { CauseAnswer } from '@anthemion/contract';
import { useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { problemOf } from '../../app/api.ts';
import { useAppStore } from '../../app/store.ts';
import { watchApi } from '../../app/watchApi.ts';
import { AdoptDialog, editedOf, PutBackDialog, type Edited } from './AnswerDialogs.tsx';

/** What can be done about causes, one or many of one fabric, with the dialogs for it. */
export function useCauseActs(): {
  readonly putBack: (causes: readonly CauseAnswer[]) => void;
  readonly adopt: (causes: readonly CauseAnswer[]) => void;
  readonly readAgain: (fabric: string) => void;
  readonly reading: boolean;
  readonly dialogs: ReactNode;
} {
  const store = useAppStore();
  const [putting, setPutting] = useState<Edited | null>(null);
  const [adopting, setAdopting] = useState<Edited | null>(null);
  const [read, { isLoading }] = watchApi.useReadFabricMutation();
  /** What was done by hand stands in what was read of the fabric. */
  const edited = async (causes: readonly CauseAnswer[]): Promise<Edited | null> => {
    const fabric = causes[0]?.fabric;
    if (fabric === undefined) return null;
    const asked = store.dispatch(watchApi.endpoints.live.initiate({ name: fabric, change: null }));
    try {
      return editedOf(fabric, await asked.unwrap(), causes);
    } catch (error) {
      toast.error(problemOf(error).detail);
      return null;
    } finally {
      asked.unsubscribe();
    }
  };
  return {
    putBack: (causes) => void edited(causes).then(setPutting),
    adopt: (causes) => void edited(causes).then(setAdopting),
    readAgain: (fabric) =>
      void read({ name: fabric, change: null }).then((r) => {
        if ('error' in r) toast.error(problemOf(r.error).detail);
        else toast.success(`${fabric} was read`);
      }),
    reading: isLoading,
    dialogs: (
      <>
        <PutBackDialog edited={putting} onClose={() => setPutting(null)} />
        <AdoptDialog edited={adopting} onClose={() => setAdopting(null)} />
      </>
    ),
  };
}
