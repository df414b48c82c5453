import {
  answersOf,
  judgeNetwork,
  linux,
  modelNetwork,
  parseIpv4,
  placeFindings,
  type Cable,
  type ConfigFiles,
  type HostPort,
  type ReadSwitch,
} from '@anthemion/core';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import Papa from 'papaparse';
import { findingText, readArguments, refuse } from './usage.ts';

class Unreadable extends Error {}

function readCsv(path: string, columns: readonly string[]): Record<string, string>[] {
  const parsed = Papa.parse<Record<string, string>>(readFileSync(path, 'utf8'), { header: true, skipEmptyLines: true });
  const missing = columns.filter((c) => !(parsed.meta.fields ?? []).includes(c));
  if (missing.length > 0)
    throw new Unreadable(`${path}:1: column ${missing.join(', ')} is missing; the columns are ${columns.join(',')}`);
  const broken = parsed.errors[0];
  if (broken) throw new Unreadable(`${path}:${(broken.row ?? 0) + 2}: ${broken.message}`);
  return parsed.data;
}

/** `read DIR [--json]`: whatever text is in the folder → the network model's answers and the rules' findings. */
export function readCommand(args: readonly string[]): number {
  const options = readArguments(args, [], ['--json']);
  if ('error' in options) return refuse(options.error);
  const [dir] = options.words;
  if (dir === undefined || options.words.length > 1) return refuse('read wants DIR');
  if (!existsSync(dir) || !statSync(dir).isDirectory()) return refuse(`there is no folder ${dir}`);
  try {
    const files = new Map<string, ConfigFiles>();
    const switches: ReadSwitch[] = [];
    for (const entry of readdirSync(dir, { withFileTypes: true })
      .filter((e) => e.isDirectory())
      .sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const present = linux.fileNames.filter((f) => existsSync(join(dir, entry.name, f)));
      if (present.length === 0) continue;
      const missing = linux.fileNames.filter((f) => !present.includes(f));
      if (missing.length > 0) throw new Unreadable(`${join(dir, entry.name)} has no ${missing.join(' and no ')}`);
      const own: ConfigFiles = Object.fromEntries(
        present.map((f) => [f, readFileSync(join(dir, entry.name, f), 'utf8')]),
      );
      files.set(entry.name, own);
      switches.push({ host: entry.name, ...linux.parse(own) });
    }
    if (switches.length === 0)
      throw new Unreadable(
        `${dir} holds no switch: a folder with ${linux.fileNames.join(' and ')} for each is expected`,
      );
    const linksPath = join(dir, 'links.csv');
    if (!existsSync(linksPath))
      throw new Unreadable(`${linksPath} is missing; without cables no session can be judged`);
    const cables = readCsv(linksPath, ['a_host', 'a_port', 'b_host', 'b_port']).map((r): Cable => ({
      a: { host: r['a_host']!, port: r['a_port']! },
      b: { host: r['b_host']!, port: r['b_port']! },
    }));
    const hostsPath = join(dir, 'hosts.csv');
    const hosts = existsSync(hostsPath)
      ? readCsv(hostsPath, ['host', 'switch', 'port', 'vlan', 'ip', 'gateway']).map((r, i): HostPort => {
          if (!/^\d+$/.test(r['vlan']!) || parseIpv4(r['ip']!) === null)
            throw new Unreadable(`${hostsPath}:${i + 2}: vlan must be a number and ip an IPv4 address`);
          return {
            host: r['host']!,
            switch: r['switch']!,
            port: r['port']!,
            vlan: Number(r['vlan']),
            ip: r['ip']!,
            gateway: r['gateway']!,
          };
        })
      : [];
    const network = modelNetwork(switches, cables, hosts);
    const findings = placeFindings(judgeNetwork(network).findings, (host) => files.get(host), linux);
    if (options.on.has('--json')) process.stdout.write(`${JSON.stringify(answersOf(network, findings), null, 2)}\n`);
    else {
      for (const f of findings) process.stdout.write(findingText(f));
      const up = network.sessions.filter((s) => s.up).length;
      process.stdout.write(
        `${switches.length} switches read, ${up} of ${network.sessions.length} session ends up, ${findings.length} findings\n`,
      );
    }
    return findings.length > 0 ? 1 : 0;
  } catch (error) {
    if (error instanceof Unreadable) return refuse(error.message);
    throw error;
  }
}
