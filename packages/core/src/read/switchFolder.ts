import Papa from 'papaparse';
import type { ConfigFiles } from '../dialects/documents.ts';
import type { Dialect } from '../dialects/dialect.ts';
import { ALL_DIALECTS, dialectWriting } from '../dialects/dialects.ts';
import type { HostPort, ReadSwitch } from '../network/networkModel.ts';
import type { Cable } from '../network/cablePlan.ts';
import { formatAddress, parseAddress, parseInterfaceAddress } from '../numbers/address.ts';

/** What a folder of switches holds: their texts, the cables between them, and servers to ask about. */
export interface SwitchFolder {
  readonly files: ReadonlyMap<string, ConfigFiles>;
  readonly switches: readonly ReadSwitch[];
  readonly cables: readonly Cable[];
  readonly hosts: readonly HostPort[];
}

type Row = Readonly<Record<string, string>>;
function rowsOf(path: string, text: string, columns: readonly string[]): Row[] | string {
  const parsed = Papa.parse<Row>(text, { header: true, skipEmptyLines: true });
  const missing = columns.filter((c) => !(parsed.meta.fields ?? []).includes(c));
  if (missing.length > 0)
    return `${path}:1: column ${missing.join(', ')} is missing; the columns are ${columns.join(',')}`;
  const broken = parsed.errors[0];
  return broken ? `${path}:${(broken.row ?? 0) + 2}: ${broken.message}` : parsed.data;
}

/** Documents that a switch of a dialect cannot be without. */
const neededBy = ({ documents }: Dialect): string[] => documents.flatMap((d) => (d.optional ? [] : [d.name]));
const EXPECTED = ALL_DIALECTS.map((d) => neededBy(d).join(' and ')).join(', or with ');

/**
 * Reads a folder of switches from its files.
 * @param texts path below the folder (`sk-lf-01/frr.conf`, `links.csv`, `hosts.csv`) → text
 * @returns the folder, or a sentence that begins with the path it is about
 */
export function readSwitchFolder(texts: ReadonlyMap<string, string>): SwitchFolder | string {
  const files = new Map<string, ConfigFiles>();
  const names = [...new Set([...texts.keys()].flatMap((p) => (p.includes('/') ? [p.split('/')[0]!] : [])))].sort();
  for (const host of names) {
    const has = (name: string): boolean => texts.has(`${host}/${name}`);
    const dialect = ALL_DIALECTS.find((d) => neededBy(d).some(has));
    if (!dialect) continue;
    const missing = neededBy(dialect).filter((name) => !has(name));
    if (missing.length > 0) return `${host} has no ${missing.join(' and no ')}`;
    const all = [...dialect.documents.map((d) => d.name), ...dialect.reads].filter(has);
    files.set(host, Object.fromEntries(all.map((f) => [f, texts.get(`${host}/${f}`)!])));
  }
  if (files.size === 0) return `holds no switch: a folder with ${EXPECTED} for each is expected`;
  const links = texts.get('links.csv');
  if (links === undefined) return 'links.csv is missing; without cables no session can be judged';
  const plugged = rowsOf('links.csv', links, LINK_COLUMNS);
  if (typeof plugged === 'string') return plugged;
  const servers = rowsOf('hosts.csv', texts.get('hosts.csv') ?? HOST_COLUMNS.join(), HOST_COLUMNS);
  if (typeof servers === 'string') return servers;
  const wrong = servers.findIndex((r) => !/^\d+$/.test(r['vlan']!) || addressIn(r['ip']!) === null);
  if (wrong >= 0)
    return `hosts.csv:${wrong + 2}: vlan must be a number and ip an address, with or without the length of its subnet`;
  return {
    files,
    switches: [...files].map(([host, own]) => ({ host, ...dialectWriting(own)!.parse(own) })),
    cables: plugged.map((r) => ({
      a: { host: r['a_host']!, port: r['a_port']! },
      b: { host: r['b_host']!, port: r['b_port']! },
    })),
    hosts: servers.map((r) => ({
      host: r['host']!,
      switch: r['switch']!,
      port: r['port']!,
      vlan: Number(r['vlan']),
      ...addressIn(r['ip']!)!,
      gateway: addressIn(r['gateway']!)?.ip ?? r['gateway']!,
    })),
  };
}
/** The files of a folder of switches, as `readSwitchFolder` reads them: path below the folder → text. */
export function folderTexts({ files, cables, hosts }: Omit<SwitchFolder, 'switches'>): Map<string, string> {
  const out = new Map<string, string>();
  for (const [host, own] of files) for (const [name, text] of Object.entries(own)) out.set(`${host}/${name}`, text);
  const table = (fields: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
    `${Papa.unparse({ fields: [...fields], data: rows.map((r) => [...r]) }, { newline: '\n' })}\n`;
  const ends = cables.map(({ a, b }) => [a.host, a.port, b.host, b.port]);
  out.set('links.csv', table(LINK_COLUMNS, ends));
  const servers = hosts.map(({ host, switch: at, port, vlan, ip, length, gateway }) => {
    return [host, at, port, vlan, length === undefined ? ip : `${ip}/${length}`, gateway];
  });
  out.set('hosts.csv', table(HOST_COLUMNS, servers));
  return out;
}

/** `10.1.1.7` or `2001:db8::7/64`. */
function addressIn(text: string): Pick<HostPort, 'ip' | 'length'> | null {
  const [ip = '', length] = text.split('/');
  const address = parseAddress(ip);
  if (!address) return null;
  // One way to write it, as texts are read.
  const as = { ip: formatAddress(address) };
  if (length === undefined) return as;
  return parseInterfaceAddress(text) ? { ...as, length: Number(length) } : null;
}
const LINK_COLUMNS = ['a_host', 'a_port', 'b_host', 'b_port'];
const HOST_COLUMNS = ['host', 'switch', 'port', 'vlan', 'ip', 'gateway'];
