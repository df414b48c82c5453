import { useEffect } from 'react';
import { useLocation } from 'react-router';
import { useAppSelector } from './store.ts';
import { watchApi } from './watchApi.ts';

/** How often one says that one is still here, milliseconds; the server forgets after a minute. */
const STILL_HERE_MS = 25_000;

/** Fabric of a page's path, or null. */
export const fabricOfPath = (path: string): string | null => /^\/fabrics\/([^/]+)/.exec(path)?.[1] ?? null;

/** Says which fabric, change and object one looks at, so that others see it. */
export function usePresence(signedIn: boolean): void {
  const { pathname, search } = useLocation();
  const change = useAppSelector((s) => s.work.openChange);
  const [say] = watchApi.useSayHereMutation();
  const fabric = fabricOfPath(pathname) ?? '';
  const page = pathname.split('/')[3] ?? '';
  const chosen = new URLSearchParams(search).get('at');
  // What stands there for a form of something new is no object that others could know.
  const at = (chosen?.includes(':') ? chosen : page).slice(0, 120);
  useEffect(() => {
    if (!signedIn) return;
    const here = (): void => {
      if (!document.hidden) void say({ fabric, change, at });
    };
    here();
    const timer = setInterval(here, STILL_HERE_MS);
    return () => clearInterval(timer);
  }, [signedIn, fabric, change, at, say]);
}
