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

/** What a value is drawn for, in words: `network:echo-store/vni` → network echo-store VNI. */
export function valueWords(key: string): string {
  const at = key.lastIndexOf('/');
  const kind = key.slice(at + 1);
  // A further subnet is named by itself.
  const word = kind.startsWith('further-') ? 'further subnet' : (WORDS[kind] ?? kind);
  return `${key.slice(0, at).replace(':', ' ')} ${word}`;
}
