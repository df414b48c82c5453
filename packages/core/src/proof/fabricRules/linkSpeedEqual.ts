import { unlikeSpeeds } from '../../layout/linkSpeeds.ts';
import type { FabricRule } from '../rule.ts';

export const linkSpeedEqual: FabricRule = {
  id: 'link-speed-equal',
  title: 'Both ends of a link have ports of one speed',
  severity: 'error',
  source: 'ports of different speed give one another no light',
  scope: 'layout',
  judge: ({ intent, compiled }) => [...unlikeSpeeds(intent, compiled.layout)],
};
