import type { Problem } from '@anthemion/contract';
import { refusals, type Edit, type Finding } from '@anthemion/core';
import { useCallback } from 'react';
import { toast } from 'sonner';
import { api, problemOf } from './api.ts';
import { editsPended, useAppDispatch, useAppSelector, useAppStore } from './store.ts';

/** The open change when it belongs to the fabric and can still be edited; null else. */
export function useChangeOf(fabric: string): string | null {
  const open = useAppSelector((s) => s.work.openChange);
  // `currentData`: what is left of a change that was left must not take edits.
  const { currentData: data } = api.useChangeQuery(open ?? '', { skip: open === null });
  return open !== null && data && data.fabric === fabric && data.state !== 'Live' && data.state !== 'Withdrawn'
    ? data.id
    : null;
}

export type Made =
  { readonly ok: true } | { readonly ok: false; readonly findings: readonly Finding[]; readonly detail: string };

/** What a form is told of edits: null = they were made, or wait for a change to be opened. */
export const notMade = (made: Made): Pick<Problem, 'findings' | 'detail'> | null => (made.ok ? null : made);

/**
 * Makes edits on a fabric inside the open change. Without one, the edits wait while a dialog offers to open it.
 * Refusals come back with findings for the fields, and are said aloud where the caller has no field for them.
 */
export function useEdits(fabric: string): (edits: readonly Edit[], quiet?: boolean) => Promise<Made> {
  const change = useChangeOf(fabric);
  const dispatch = useAppDispatch();
  const store = useAppStore();
  const [addEdits] = api.useAddEditsMutation();
  return useCallback(
    async (edits, quiet = false) => {
      // Of many that were picked all may be so already.
      if (edits.length === 0) return { ok: true };
      if (change === null) {
        // No change is opened for what cannot be made.
        const live = api.endpoints.fabric.select({ name: fabric, change: null })(store.getState()).data;
        const findings = live ? refusals(live.intent, edits) : [];
        const [first] = findings;
        if (first) {
          const detail = first.cure ? `${first.message} ${first.cure}` : first.message;
          if (!quiet) toast.error(detail);
          return { ok: false, findings, detail };
        }
        dispatch(editsPended({ fabric, edits }));
        return { ok: true };
      }
      // The newest version that was shown, also when several edits follow one another without a new drawing between.
      const version = api.endpoints.change.select(change)(store.getState()).data?.version ?? 0;
      const result = await addEdits({ id: change, version, edits });
      if (!('error' in result)) return { ok: true };
      const p = problemOf(result.error);
      if (!quiet) toast.error(p.detail);
      return { ok: false, findings: p.findings, detail: p.detail };
    },
    [change, dispatch, fabric, addEdits, store],
  );
}
