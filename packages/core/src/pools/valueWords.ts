import type { ValueKey } from './demands.ts';

const WORDS: Readonly<Record<string, string>> = {
  asn: 'AS number',
  loopback: 'loopback',
  vtep: 'VTEP',
  link: 'link',
  vni: 'VNI',
  subnet: 'subnet',
  subnet6: 'IPv6 subnet',
  loopback6: 'IPv6 loopback',
  link6: 'IPv6 link',
};

/** What kind of value a key names: `network:echo-store/vni` → VNI. */
export function valueWord(key: ValueKey): string {
  const kind = key.slice(key.lastIndexOf('/') + 1);
  // A further subnet is named by itself.
  return kind.startsWith('further-') ? 'further subnet' : (WORDS[kind] ?? kind);
}

/** What a value is drawn for, in words: `network:echo-store/vni` → network echo-store VNI. */
export const valueWords = (key: ValueKey): string =>
  `${key.slice(0, key.lastIndexOf('/')).replace(':', ' ')} ${valueWord(key)}`;
