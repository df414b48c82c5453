import type { FabricRule } from '../rule.ts';
import { drainedCarried, drainedHalves } from './drainedCarried.ts';
import { fabricFits } from './fabricFits.ts';
import { linkSpeedEqual } from './linkSpeedEqual.ts';
import { mapsLead } from './mapsLead.ts';
import { mtuWithinModel } from './mtuWithinModel.ts';
import { leakAnswered, leakApart } from './leaksHold.ts';
import { nextHopNear, routeCarried } from './routesHold.ts';
import { portsDriven } from './portsDriven.ts';
import { routeLimit } from './routeLimit.ts';
import { outsideAs } from './outsideAs.ts';
import { outsideSubnet } from './outsideSubnet.ts';
import { speakerKnown, speakersRange } from './speakersHold.ts';
import { tablesHold } from './tablesHold.ts';

/** Every rule of what is meant, before it is a text. A test checks that each file of this folder is listed. */
export const FABRIC_RULES: readonly FabricRule[] = [
  fabricFits,
  linkSpeedEqual,
  portsDriven,
  mtuWithinModel,
  tablesHold,
  outsideSubnet,
  outsideAs,
  routeCarried,
  nextHopNear,
  mapsLead,
  speakersRange,
  speakerKnown,
  leakApart,
  leakAnswered,
  routeLimit,
  drainedHalves,
  drainedCarried,
];
