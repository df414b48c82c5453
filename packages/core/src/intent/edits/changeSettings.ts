import { checkDescriptions } from '../../patterns/descriptions.ts';
import { checkNames, DEFAULT_NAMES } from '../../patterns/names.ts';
import { problem, type Finding } from '../../finding.ts';
import { hasPods, leavesShareAs, shapeOf, type AsnScheme, type FabricSettings } from '../../patterns/patterns.ts';
import { valueSentence } from '../collections/sentences.ts';
import { rackPatternOf, type FabricIntent } from '../intent.ts';
import { settingsPatchSchema } from '../schemas/parts.ts';
import { checkTenantMtu } from './checkFamilies.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

export interface ChangeSettings {
  readonly kind: 'changeSettings';
  readonly settings: Partial<FabricSettings>;
}

/** Switches with servers that are joined to one another cannot share an AS number, as those of a collapsed fabric are, or a pair with peer ports. */
function checkScheme(intent: FabricIntent, scheme: AsnScheme): Finding[] {
  if (!leavesShareAs(scheme)) return [];
  const pair = intent.racks.find((r) => {
    const pattern = rackPatternOf(intent, r);
    return pattern !== undefined && pattern.kind !== 'single' && pattern.peerPorts !== undefined;
  });
  const joined =
    shapeOf(intent) === 'collapsed'
      ? 'Leaves of a collapsed fabric are joined to one another'
      : pair
        ? `The halves of rack ${pair.number} (${pair.pattern}) are joined by peer ports`
        : null;
  return joined === null
    ? []
    : [
        problem(
          'scheme-fits',
          '/settings/asnScheme',
          `${joined}: with one AS number eBGP would not come up between them.`,
          'Give each leaf a number of its own, or all one, led by OSPF.',
        ),
      ];
}

export const changeSettings: EditKindOf<ChangeSettings> = {
  kind: 'changeSettings',
  schema: editFields('changeSettings', { settings: settingsPatchSchema }),
  apply: (intent, edit) => {
    const settings = { ...intent.settings, ...edit.settings };
    const named = Object.keys(edit.settings).some((key) => key in DEFAULT_NAMES);
    const findings = [
      ...(named ? checkNames(settings, intent.namePrefix, hasPods(intent)) : []),
      ...checkDescriptions(settings),
      ...(settings.asnScheme === intent.settings.asnScheme ? [] : checkScheme(intent, settings.asnScheme)),
      ...checkTenantMtu(intent, settings.tenantMtu),
    ];
    return unless(findings, intent, () => ({
      ...intent,
      settings,
    }));
  },
  sentence: (edit, before) =>
    `Set ${Object.entries(edit.settings)
      .map(([key, value]) => valueSentence(before, 'setting', key, value))
      .join(', ')}`,
  subjects: (edit) => Object.keys(edit.settings).map((key) => `setting:${key}` as const),
  makes: { of: 'setting', patch: (settings) => ({ kind: 'changeSettings', settings }) },
};
