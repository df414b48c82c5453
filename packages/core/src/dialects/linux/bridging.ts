import type { BridgeConfig, Bridging } from '../../config/bridging.ts';
import { onceFor } from '../../onceFor.ts';
import type { BridgeDraft, ConfigDraft, Draft } from './draft.ts';
import { bridgeName, bridgeWords } from './names.ts';
import { isPlain, type Sheet } from './sheet.ts';
import { word, type StanzaKind, type Word } from './stanzas.ts';
import { mtuWord, whole } from './words.ts';

/** VLAN lines of a bridged port. */
export function bridgingLines(b: Bridging | undefined): string {
  if (b === undefined) return '';
  if (b.tagged.length === 0) return b.untagged === undefined ? '' : `\n    bridge-access ${b.untagged}`;
  const vids = `\n    bridge-vids ${b.tagged.join(' ')}`;
  return b.untagged === undefined ? `${vids}\n    bridge-allow-untagged no` : `${vids}\n    bridge-pvid ${b.untagged}`;
}

/** The kernel's own spanning tree: one for all VLANs. */
const spanningTreeLines = (tree: BridgeConfig['spanningTree']): string =>
  tree === undefined
    ? 'bridge-stp off'
    : `bridge-stp on${tree.priority === undefined ? '' : `\n    bridge-bridgeprio ${tree.priority}`}`;

const vidsOf = onceFor((vlans: readonly number[]) => vlans.join(' '));

export function writeBridge(b: BridgeConfig, sheet: Sheet): void {
  const name = bridgeName(b);
  const { words, plain } = bridgeWords(b);
  const text = `\n\nauto ${name}\niface ${name}\n    bridge-vlan-aware yes\n    bridge-ports ${words}\n    bridge-vids ${vidsOf(b.vlans)}\n    ${spanningTreeLines(b.spanningTree)}${b.mtu === undefined ? '' : `\n    mtu ${b.mtu}`}`;
  sheet.say(text, isPlain(name) && plain ? '' : text);
}

/** `10 20-22` → [10, 20, 21, 22], or null. */
function parseVids(text: string): number[] | null {
  const out: number[] = [];
  for (const item of text.split(/\s+/)) {
    const dash = item.indexOf('-');
    const from = whole(dash < 0 ? item : item.slice(0, dash), 1, 4094);
    const to = dash < 0 ? from : whole(item.slice(dash + 1), 1, 4094);
    if (from === null || to === null || to < from) return null;
    for (let v = from; v <= to; v++) out.push(v);
  }
  return out.sort((a, b) => a - b);
}

type Bridged = { bridging?: Bridging };
const NO_VLAN = 'a VLAN is 1–4094';
const draftOf = (item: Bridged): Draft<Bridging> => (item.bridging ??= { tagged: [] });
const untagged: Word<Bridged> = word('bridging', (item, value) => {
  const vlan = whole(value, 1, 4094);
  if (vlan === null) return NO_VLAN;
  draftOf(item).untagged = vlan;
  return null;
});

/** Words of a port that is in a bridge. */
export const bridgedWords = {
  'bridge-access': untagged,
  'bridge-pvid': untagged,
  'bridge-vids': word<Bridged>('bridging', (item, value) => {
    const vids = parseVids(value);
    if (!vids) return 'VLANs are 1–4094';
    draftOf(item).tagged = vids;
    return null;
  }),
  'bridge-allow-untagged': word<Bridged>('bridging', (_, value) =>
    value === 'yes' || value === 'no' ? null : 'it is yes or no',
  ),
};

export const bridgeKind: StanzaKind<BridgeDraft> = {
  marks: ['bridge-ports', 'bridge-vlan-aware'],
  open: (name, draft: ConfigDraft) =>
    (draft.bridge = { ...(name === 'bridge' ? {} : { called: name }), members: [], vlans: [] }),
  words: {
    'bridge-vlan-aware': word(undefined, (_, value) => (value === 'yes' ? null : 'the bridge must be VLAN-aware')),
    mtu: mtuWord(),
    'bridge-ports': word('ports', (item, value) => {
      item.members = value.split(/\s+/).filter(Boolean);
      return null;
    }),
    'bridge-vids': word('vlans', (item, value) => {
      const vids = parseVids(value);
      if (!vids) return 'VLANs are 1–4094';
      item.vlans = vids;
      return null;
    }),
    'bridge-stp': word('spanningTree', (item, value) => {
      if (!/^(on|off|yes|no)$/.test(value)) return 'it is on or off';
      item.stp = /^(on|yes)$/.test(value);
      return null;
    }),
    'bridge-bridgeprio': word('spanningTree', (item, value) => {
      const priority = whole(value, 0, 65535);
      if (priority === null) return 'a priority is 0–65535';
      item.priority = priority;
      return null;
    }),
  },
  place: () => ['bridge'],
};
