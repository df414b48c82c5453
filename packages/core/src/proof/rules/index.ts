import type { DesignRule } from '../rule.ts';
import { addressUnique } from './addressUnique.ts';
import { asnValid } from './asnValid.ts';
import { bfdBothEnds } from './bfdBothEnds.ts';
import { bgpSessionUp } from './bgpSessionUp.ts';
import { bridgeCarries } from './bridgeCarries.ts';
import { driveEqual } from './driveEqual.ts';
import { goneRound } from './goneRound.ts';
import { gatewayEqual } from './gatewayEqual.ts';
import { gatewayMacFree } from './gatewayMac.ts';
import { gatewayMtuCarried } from './gatewayMtuCarried.ts';
import { l3VniMeets } from './l3VniMeets.ts';
import { leaksFiltered } from './leaksFiltered.ts';
import { lineStrays } from './lineStrays.ts';
import { linkMtuEqual } from './linkMtuEqual.ts';
import { loopGuarded } from './loopGuarded.ts';
import { mapGoesOn } from './mapGoesOn.ts';
import { peerAsked } from './peerAsked.ts';
import { mtuCarriesVlan } from './mtuCarriesVlan.ts';
import { mtuCarriesVxlan } from './mtuCarriesVxlan.ts';
import { namesDefined } from './namesDefined.ts';
import { networkMtuEqual } from './networkMtuEqual.ts';
import { networksApart } from './networksApart.ts';
import { ospfNeighbourUp } from './ospfNeighbourUp.ts';
import { pairAgrees } from './pairAgrees.ts';
import { pathWidth } from './pathWidth.ts';
import { policyAllows } from './policyAllows.ts';
import { rdUnique } from './rdUnique.ts';
import { routerIdUnique } from './routerIdUnique.ts';
import { segmentElectsOne } from './segmentElectsOne.ts';
import { serverJoined } from './serverJoined.ts';
import { timersSound } from './timersSound.ts';
import { transitSharesAs } from './transitSharesAs.ts';
import { subnetOverlap } from './subnetOverlap.ts';
import { textRead } from './textRead.ts';
import { vlanJoined } from './vlanJoined.ts';
import { vlanMeaning } from './vlanMeaning.ts';
import { vniHeard } from './vniHeard.ts';
import { vrfComplete } from './vrfComplete.ts';
import { tunnelPasses } from './tunnelPasses.ts';
import { vtepLocal } from './vtepLocal.ts';
import { wayInOpen } from './wayInOpen.ts';

/** Every design rule, causes before symptoms. A test checks that each file of this folder is listed. */
export const DESIGN_RULES: readonly DesignRule[] = [
  textRead,
  lineStrays,
  wayInOpen,
  bgpSessionUp,
  ospfNeighbourUp,
  pathWidth,
  goneRound,
  policyAllows,
  leaksFiltered,
  mapGoesOn,
  peerAsked,
  asnValid,
  transitSharesAs,
  routerIdUnique,
  addressUnique,
  driveEqual,
  linkMtuEqual,
  bfdBothEnds,
  timersSound,
  namesDefined,
  vtepLocal,
  tunnelPasses,
  mtuCarriesVxlan,
  mtuCarriesVlan,
  gatewayMtuCarried,
  networkMtuEqual,
  vlanMeaning,
  gatewayEqual,
  gatewayMacFree,
  subnetOverlap,
  rdUnique,
  vniHeard,
  vrfComplete,
  l3VniMeets,
  pairAgrees,
  segmentElectsOne,
  loopGuarded,
  vlanJoined,
  bridgeCarries,
  networksApart,
  serverJoined,
];
