import { blocksText } from '../../hardware/checkModel.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { tablesText } from '../../hardware/tables.ts';
import { FORWARDER_WORDS, type RackPattern } from '../../patterns/patterns.ts';
import { breakoutsText } from '../../patterns/tierTexts.ts';
import { modelSchema, rackPatternSchema } from '../schemas/parts.ts';
import { listOf, whole, words } from './collection.ts';

const RACK_KINDS: Readonly<Record<RackPattern['kind'], string>> = { single: 'one leaf', 'esi-pair': 'ESI pair' };

export const models = listOf('models', (m) => m.name, {
  kind: 'model',
  word: 'switch model',
  schema: modelSchema,
  freeing: 'Change or remove it first.',
  fields: [
    words<SwitchModel, 'maker'>('maker', 'maker'),
    words<SwitchModel, 'dialect'>('dialect', 'dialect'),
    {
      key: 'blocks',
      label: 'ports',
      value: (m) => m.blocks,
      text: (m) => m.blocks.map((b) => blocksText([b])).join('; '),
    },
    whole<SwitchModel, 'maxMtu'>('maxMtu', 'largest MTU'),
    {
      key: 'tables',
      label: 'tables',
      value: (m) => m.tables ?? {},
      text: (m) => tablesText(m.tables) || 'not said',
    },
  ],
});

export const rackPatterns = listOf('rackPatterns', (p) => p.name, {
  kind: 'rackPattern',
  word: 'rack pattern',
  schema: rackPatternSchema,
  freeing: 'Change or remove it first.',
  fields: [
    { key: 'kind', label: 'leaves', value: (p) => p.kind, text: (p) => RACK_KINDS[p.kind] },
    words<RackPattern, 'leafModel'>('leafModel', 'leaf model'),
    words<RackPattern, 'serverPorts'>('serverPorts', 'server ports'),
    words<RackPattern, 'uplinkPorts'>('uplinkPorts', 'uplink ports'),
    words<RackPattern, 'peerPorts'>('peerPorts', 'peer ports'),
    words<RackPattern, 'keepalivePorts'>('keepalivePorts', 'keep-alive ports'),
    {
      key: 'breakouts',
      label: 'split ports',
      value: (p) => p.breakouts ?? [],
      text: (p) => breakoutsText(p.breakouts),
    },
    {
      key: 'esiType',
      label: 'ESI',
      value: (p) => p.esiType,
      text: (p) => (p.kind === 'single' ? '' : p.esiType === 0 ? 'type 0' : 'type 3'),
    },
    {
      key: 'forwards',
      label: 'who forwards what is flooded',
      value: (p) => p.forwards,
      text: (p) => (p.forwards === undefined ? '' : FORWARDER_WORDS[p.forwards]),
      empty: 'the lower VTEP',
    },
    {
      key: 'untracked',
      label: 'uplink tracking',
      value: (p) => p.untracked === true,
      text: (p) => (p.kind === 'single' ? '' : p.untracked ? 'off' : 'on'),
    },
    { key: 'duties', label: 'duties', value: (p) => p.duties ?? [], text: (p) => (p.duties ?? []).join(', ') },
  ],
  refers: (p) => [{ to: `model:${p.leafModel}`, ends: 'holds' }],
});
