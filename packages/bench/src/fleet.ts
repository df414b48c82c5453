import { DOCUMENTS, withOwned } from '@anthemion/core';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Faults that can be switched on for one stand-in switch. */
export const FAULTS = ['unreachable', 'wrong password', 'refuses the text', 'dies before confirming', 'slow'] as const;
export type Fault = (typeof FAULTS)[number];

export interface FleetSwitch {
  readonly serial: string;
  readonly model: string;
  /** TCP port on 127.0.0.1; 0 until the first start has picked one. */
  port: number;
  /** Host key it shows, `SHA256:…`; empty until the first start has made one. */
  hostKey?: string;
  faults: Fault[];
}
export interface FleetCable {
  readonly a: { readonly serial: string; readonly port: string };
  readonly b: { readonly serial: string; readonly port: string };
  pulled: boolean;
}
/** A router that is nobody's of the fleet: it runs its text, and nobody signs in to it. */
export interface FleetRouter {
  readonly name: string;
  readonly files: Readonly<Record<string, string>>;
}
export interface Fleet {
  readonly username: string;
  readonly password: string;
  readonly switches: FleetSwitch[];
  cables: FleetCable[];
  /** Absent = none. */
  routers?: FleetRouter[];
}

/** What a switch runs before anybody configured it. */
export const factoryFiles = (serial: string) => ({
  interfaces: '# factory settings\nauto lo\niface lo inet loopback\n',
  'frr.conf': `frr defaults traditional\nhostname ${serial.toLowerCase()}\nservice integrated-vtysh-config\n`,
});
/** What is started, in the part of that document that is nobody’s of ours. */
const FACTORY_DAEMONS = 'bgpd=no\nospfd=no\nospf6d=no\nbfdd=no\n\nvtysh_enable=yes\nbgpd_options="   -A 127.0.0.1"\n';

const fleetPath = (data: string): string => join(data, 'fleet.json');

/** A file of the fleet's folder, written whole or not at all. */
export function writeWhole(path: string, text: string): void {
  writeFileSync(`${path}.new`, text, { mode: 0o600 });
  renameSync(`${path}.new`, path);
}

export const fleetExists = (data: string): boolean => existsSync(fleetPath(data));
export const loadFleet = (data: string): Fleet => JSON.parse(readFileSync(fleetPath(data), 'utf8')) as Fleet;
export const saveFleet = (data: string, fleet: Fleet): void =>
  writeWhole(fleetPath(data), JSON.stringify(fleet, null, 1));

/** The folder that is a switch's root file system. */
export const rootOf = (data: string, serial: string): string => join(data, 'switches', serial);

/** Makes the fleet's folders, with factory settings where a switch has none. */
export function createFleet(data: string, fleet: Fleet): void {
  for (const s of fleet.switches) {
    const root = rootOf(data, s.serial);
    for (const folder of [
      'etc/network',
      'etc/frr',
      'etc/sysctl.d',
      'run/running',
      'var/lib/anthemion',
      'sys/class/dmi/id',
    ])
      mkdirSync(join(root, folder), { recursive: true });
    if (existsSync(join(root, 'etc/frr/frr.conf'))) continue;
    writeWhole(join(root, 'etc/frr/daemons'), FACTORY_DAEMONS);
    writeWhole(join(root, 'run/running/daemons'), FACTORY_DAEMONS);
    setText(data, s.serial, factoryFiles(s.serial));
    writeFileSync(join(root, 'sys/class/dmi/id/product_serial'), `${s.serial}\n`);
    writeFileSync(join(root, 'sys/class/dmi/id/product_name'), `${s.model}\n`);
    writeFileSync(join(root, 'etc/os-release'), 'NAME="Bench Linux"\nVERSION_ID="12.4"\n');
  }
  saveFleet(data, fleet);
}

/** Where a document lies on the disk of a stand-in switch. */
export const pathOf = (data: string, serial: string, name: string): string =>
  join(rootOf(data, serial), DOCUMENTS.linux.find((d) => d.name === name)!.path);

/** Puts our part of texts on a switch's disk and has them run, as if they had always been there. */
export function setText(data: string, serial: string, files: Readonly<Record<string, string>>): void {
  const root = rootOf(data, serial);
  for (const [name, text] of Object.entries(files)) {
    const path = pathOf(data, serial, name);
    const there = existsSync(path) ? readFileSync(path, 'utf8') : '';
    const whole = withOwned(
      DOCUMENTS.linux.find((d) => d.name === name)!,
      there,
      text,
    );
    writeWhole(path, whole);
    writeWhole(join(root, 'run/running', name), whole);
  }
}
