import { guardFiles, lagName, sviName, vxlanName, type SwitchFolder } from '@anthemion/core';

/** Words as interfaces, VRFs and hosts may be called here: no blank, no quote, nothing that a shell takes for more than a word. */
const NAME = /^[A-Za-z0-9_][A-Za-z0-9_.:@+-]*$/;
const ADDRESS = /^[0-9A-Fa-f.:]+(\/[0-9]+)?$/;
const MAC = /^[0-9A-Fa-f:]+$/;

/**
 * Everything of a folder becomes commands of a kernel, in namespaces of this machine and as root: a name that is more than
 * a name is refused before anything is made.
 * @returns why the folder is not run, or null
 */
export function unsafeWord({ switches, cables, hosts }: SwitchFolder): string | null {
  const words: (readonly [text: string | undefined, form: RegExp])[] = [];
  const names = (...all: (string | undefined)[]): void => all.forEach((n) => words.push([n, NAME]));
  const addresses = (...all: (string | undefined)[]): void => all.forEach((a) => words.push([a, ADDRESS]));
  for (const { host, config } of switches) {
    names(host, ...config.vrfs.map((v) => v.name));
    addresses(...config.loopbacks, ...(config.ipv6Loopbacks ?? []));
    for (const p of config.ports) {
      names(p.name, p.vrf);
      addresses(...p.addresses, ...(p.ipv6Addresses ?? []));
    }
    for (const l of config.lags) names(lagName(l), ...l.members);
    for (const s of config.svis) {
      names(sviName(s), s.vrf);
      addresses(...s.addresses, ...(s.ipv6Addresses ?? []), s.virtual?.address);
      words.push([s.mac, MAC], [s.virtual?.mac, MAC]);
    }
    for (const v of config.vxlans) {
      names(vxlanName(v));
      addresses(v.localAddress);
    }
  }
  for (const { a, b } of cables) names(a.host, a.port, b.host, b.port);
  for (const h of hosts) {
    names(h.switch, h.port);
    addresses(h.ip, h.gateway === '' ? undefined : h.gateway);
  }
  const bad = words.find(([text, form]) => text !== undefined && !form.test(text))?.[0];
  return bad === undefined ? null : `${JSON.stringify(bad.slice(0, 60))} is no name or address that is run here`;
}

/** Lines of FRR's configuration that are commands to its shell. */
const COMMANDS = /^\s*(do|start-shell|copy|write|terminal|configure)(\s|$)/;

/**
 * Lines that run programs or use other files: on a switch they are allowed to some, here they would run on the machine of
 * the server.
 * @returns why the texts are not run, or null
 */
export function runsElsewhere({ files }: SwitchFolder): string | null {
  for (const [host, own] of files) {
    const bad =
      guardFiles(own).find((l) => l.kind === 'refused' || l.kind === 'runs elsewhere') ??
      (own['frr.conf'] ?? '')
        .split('\n')
        .flatMap((text, i) =>
          COMMANDS.test(text)
            ? [{ file: 'frr.conf', line: i + 1, text: text.trim(), why: 'is a command, and no configuration' }]
            : [],
        )[0];
    if (bad) return `${host} ${bad.file}:${bad.line}, “${bad.text}”, ${bad.why}: that is not run here`;
  }
  return null;
}
