import { DEFAULT_SETTINGS, type FabricSettings } from '../patterns/patterns.ts';
import { wherever, type BgpConfig } from './bgpParts.ts';

/** What a router says of how it starts anew, wherever it speaks to somebody; what daemons do by themselves is not said. */
export function sayRestart(
  router: BgpConfig,
  { restart, restartTime }: Pick<FabricSettings, 'restart' | 'restartTime'>,
): BgpConfig {
  if (restart === 'helper') return router;
  if (restart === 'none') return wherever(router, { restart });
  return wherever(router, {
    restart,
    ...(restartTime === DEFAULT_SETTINGS.restartTime ? {} : { restartTime }),
    keepsForwarding: true,
  });
}
