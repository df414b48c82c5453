import type { Finding } from '@anthemion/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { problemOf } from './api.ts';

/** What a form does when it is sent: what came back wrong stands at its fields, what cannot stand there is said aside. */
export function useSave() {
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  return {
    findings,
    clear: () => setFindings([]),
    /** Waits for a call; says `done` where it came through. Answers its result, or null. */
    save: async <T>(
      call: Promise<{ data: T; error?: undefined } | { data?: undefined; error: unknown }>,
      done: string,
    ): Promise<{ data: NonNullable<T> } | null> => {
      const result = await call;
      if (result.error !== undefined) {
        const p = problemOf(result.error);
        setFindings(p.findings);
        if (p.findings.length === 0) toast.error(p.detail);
        return null;
      }
      setFindings([]);
      if (done !== '') toast.success(done);
      return { data: result.data as NonNullable<T> };
    },
  };
}
