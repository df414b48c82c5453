export * from './finding.ts';
export * from './subject.ts';
export * from './capital.ts';
export * from './plural.ts';
export * from './numbers/address.ts';
export * from './numbers/ipv4.ts';
export * from './numbers/asn.ts';
export * from './numbers/vni.ts';
export * from './numbers/mac.ts';
export { holdsAny, hostPrefix, parseAnyPrefix } from './numbers/prefix.ts';
export * from './numbers/order.ts';
export * from './numbers/ports.ts';
export * from './numbers/content.ts';
export * from './hardware/switchModel.ts';
export * from './hardware/checkModel.ts';
export { tablesOf, tablesText, type TableSizes } from './hardware/tables.ts';
export { portNames, type PortNames } from './hardware/portNames.ts';
export * from './patterns/patterns.ts';
export * from './patterns/rackPattern.ts';
export * from './patterns/sizing.ts';
export * from './patterns/checkFabricPattern.ts';
export { TIER_FIELDS, type SetSpines } from './intent/edits/setSpines.ts';
export * from './patterns/names.ts';
export type { DescriptionSchemes } from './patterns/descriptions.ts';
export * from './patterns/tierTexts.ts';
export * from './intent/intent.ts';
export { LAG_FORM, lagText, readLag } from './intent/outsideLag.ts';
export * from './intent/neighbourPlace.ts';
export * from './intent/policies.ts';
export * from './intent/policyLines.ts';
export { makingOf, type MadeKind } from './intent/edits/making.ts';
export {
  applyEdit,
  applyEdits,
  refusals,
  describeEdit,
  schemaOfEdit,
  describeEdits,
  EDITS,
  editSchema,
  subjectsOf,
  type Edit,
  type EditKind,
  type EditOf,
} from './intent/edits/index.ts';
export { type Applied } from './intent/edits/edit.ts';
export * from './intent/proposals.ts';
export * from './intent/seatIds.ts';
export * from './intent/edits/editsBetween.ts';
export * from './intent/edits/rebase.ts';
export { ALL_COLLECTIONS, collectionOf, objectOf } from './intent/collections/index.ts';
export { type Collection, type Field, type Reference } from './intent/collections/collection.ts';
export * from './intent/collections/differences.ts';
export { namedIn, removalOf, type Removal } from './intent/collections/removal.ts';
export { POOL_ROLE_LABELS, SETTING_CHOICES, SETTING_LABELS } from './intent/collections/whole.ts';
export * from './layout/layout.ts';
export * from './layout/links.ts';
export * from './layout/seats.ts';
export * from './layout/serverSeats.ts';
export * from './layout/seatPorts.ts';
export * from './pools/pool.ts';
export * from './pools/demands.ts';
export * from './pools/drawValues.ts';
export * from './pools/proposePool.ts';
export * from './pools/valueWords.ts';
export * from './config/switchConfig.ts';
export { blankConfig } from './config/sections.ts';
export { type OriginContext } from './config/section.ts';
export { lagKey, sviKey, type LagConfig, type PortConfig, type SviConfig } from './config/interfaces.ts';
export { vxlanKey, type VxlanConfig } from './config/overlay.ts';
export { DEFAULT_MTU, sviMtu } from './network/interfaces.ts';
export { type FilterRule } from './config/filters.ts';
export { gatewayOf } from './config/carriage.ts';
export { driveWords, FEC_WORDS, FECS, SPEEDS, speedWords, type Drive, type Fec } from './hardware/drive.ts';
export { lagNumber } from './hardware/lagNumber.ts';
export { type Bridging } from './config/bridging.ts';
export * from './config/deriveConfigs.ts';
export * from './dialects/dialect.ts';
export { handOver, type HandedOver } from './compile/handOver.ts';
export * from './dialects/documents.ts';
export * from './dialects/owned.ts';
export * from './dialects/dialects.ts';
export * from './hardware/dialects.ts';
export {
  frrBlockName,
  FRR_TRIALS,
  frrTrialText,
  seenLanding,
  type FrrLanding,
  type FrrLandings,
  type FrrTrial,
} from './dialects/linux/frrVocabulary.ts';
export { linux } from './dialects/linux/linux.ts';
export { readLanding } from './dialects/linux/frrLanding.ts';
export * from './dialects/linux/textGuard.ts';
export * from './dialects/linux/secretWords.ts';
export * from './secrets/secretRef.ts';
export { checkSnippetTemplate } from './dialects/linux/snippets.ts';
export { bridgeMembers, bridgeName, lagName, sviName, vxlanName } from './dialects/linux/names.ts';
export * from './demo/demoFabrics.ts';
export * from './demo/skerry.ts';
export * from './config/origins.ts';
export * from './compile/compileFabric.ts';
export * from './compile/servers.ts';
export * from './compile/onSwitches.ts';
export * from './network/cablePlan.ts';
export { cablesSpokenOver } from './network/spokenCables.ts';
export * from './network/sessions.ts';
export { modelNetwork } from './network/modelNetwork.ts';
export * from './network/networkModel.ts';
export { PING, type Traffic } from './network/traffic.ts';
export * from './network/hostReach.ts';
export { missingDoubt } from './network/uncertain.ts';
export { adjacencyDoubt, sessionDoubt } from './network/modelDoubts.ts';
export * from './network/uncertain.ts';
export { permits } from './network/policyLists.ts';
export { viewOf, type SwitchView } from './network/switchView.ts';
export * from './proof/rule.ts';
export { DESIGN_RULES } from './proof/rules/index.ts';
export { FABRIC_RULES } from './proof/fabricRules/index.ts';
export { judgeFabric } from './proof/judgeFabric.ts';
export { RULE_SCOPES, type RuleScope } from './proof/rule.ts';
export * from './proof/placeFindings.ts';
export * from './proof/judgeNetwork.ts';
export { documentCounts, lineCounts } from './proof/lineCounts.ts';
export * from './proof/proveChange.ts';
export { waivedRules } from './proof/waive.ts';
export { rehearsalCut } from './proof/rehearsalCut.ts';
export * from './read/answers.ts';
export * from './read/compareTexts.ts';
export { folderTexts, readSwitchFolder, type SwitchFolder } from './read/switchFolder.ts';
export * from './rollout/planWaves.ts';
export * from './rollout/sentTogether.ts';
export * from './intent/schemas/objects.ts';
export * from './intent/schemas/parts.ts';
export * from './intent/schemas/policies.ts';
export * from './intent/intentSchema.ts';
export * from './intent/schemas/validate.ts';
export * from './intent/racksText.ts';
export { subnetsOf } from './intent/collections/tenants.ts';
export { callersIn, knownServers } from './compile/speaking.ts';
export { whyNotPlugged } from './intent/edits/checkSpeakers.ts';
export { knownText, readKnown } from './intent/collections/speakers.ts';
export { TABLES, type TableName } from './tables/index.ts';
export {
  pastedInto,
  tableCells,
  type DrawnValues,
  type PastedEdits,
  type PastedLine,
  type Table,
} from './tables/table.ts';
export { nextFreePort } from './tables/ports.ts';
export * from './intent/intentFile.ts';
export * from './jsonSchema.ts';
export * from './config/differences.ts';
export * from './config/ownPlaces.ts';
export { vlanOfPort, vlanPort } from './config/vlanOfPort.ts';
export * from './watch/seen.ts';
export * from './watch/heard.ts';
export * from './watch/links.ts';
export * from './watch/sessions.ts';
export { CAUSE_KINDS, countCauses, isOnlyUnread, type Cause, type CauseKind } from './watch/cause.ts';
export { asksAround } from './config/drained.ts';
export { type DrainStand } from './watch/drained.ts';
export { underlaySteps } from './network/underlayWays.ts';
export * from './watch/traffic.ts';
export { type ServerLeg } from './watch/hanging.ts';
export * from './watch/watchFabric.ts';
export * from './survey/adoptDrift.ts';
export * from './find/findables.ts';
export * from './find/fitting.ts';
export * from './ask/answer.ts';
export { evpnOf } from './ask/evpnOf.ts';
export * from './ask/ask.ts';
export * from './ask/question.ts';
export * from './ask/differences.ts';
export { routesOf, routeTo } from './ask/routesOf.ts';
export * from './network/ospfIn.ts';
export { tenantsOf } from './network/tenants.ts';
export { announcedPrefixes } from './network/families.ts';
export { type PolicyKind } from './config/policyUses.ts';
export * from './routing/neighbourRows.ts';
export * from './routing/policies.ts';
