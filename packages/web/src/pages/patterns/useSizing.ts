import type { FabricPattern, PartsCatalogue, Sizing } from '@anthemion/core';
import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';

interface SizingWorker {
  size: (pattern: FabricPattern, parts: PartsCatalogue) => Sizing;
}
let worker: Remote<SizingWorker> | null = null;
const sizer = (): Remote<SizingWorker> =>
  (worker ??= wrap<SizingWorker>(new Worker(new URL('./sizing.worker.ts', import.meta.url), { type: 'module' })));

/** The arithmetic of a pattern, computed by the core in a web worker; null until the first answer. */
export function useSizing(pattern: FabricPattern, parts: PartsCatalogue): Sizing | null {
  const [sizing, setSizing] = useState<Sizing | null>(null);
  const key = JSON.stringify([pattern, parts]);
  useEffect(() => {
    let current = true;
    const [p, c] = JSON.parse(key) as [FabricPattern, PartsCatalogue];
    void sizer()
      .size(p, c)
      .then((s) => current && setSizing(s));
    return () => {
      current = false;
    };
  }, [key]);
  return sizing;
}
