import type { LinkStand } from '@anthemion/core';
import type { SwitchStanding } from '../../../parts/moods.ts';
import type { Token } from '../../../parts/theme.ts';

/** Fill and outline of a switch by how it is. */
export const HEALTH_COLOURS: Readonly<Record<SwitchStanding, readonly [Token, Token]>> = {
  'as meant': ['verdigris-wash', 'verdigris'],
  waiting: ['ochre-wash', 'ochre'],
  drifted: ['madder-wash', 'madder'],
  unread: ['sheet', 'faded'],
  'out of service': ['sheet', 'plum'],
  drained: ['sheet', 'plum'],
};

/** How a link is drawn by how it stands: what is wrong is dashed as well, so that colour does not speak alone. */
export const linkLook = (stand: LinkStand): { readonly tone: Token; readonly dash: string | undefined } =>
  stand === 'up'
    ? { tone: 'link', dash: undefined }
    : stand === 'unread'
      ? { tone: 'link', dash: '1 4' }
      : stand === 'out' || stand === 'at rest'
        ? { tone: 'plum', dash: '1 4' }
        : { tone: 'madder', dash: '5 4' };
const SOUND: ReadonlySet<LinkStand> = new Set(['up', 'at rest', 'unread', 'out']);
export const isWrong = (stand: LinkStand): boolean => !SOUND.has(stand);
