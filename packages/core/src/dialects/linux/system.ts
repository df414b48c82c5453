import type { SystemPart } from '../../config/system.ts';
import type { TopLines } from './blocks.ts';

export const interfacesHead = ({ hostname }: SystemPart): string =>
  `# ${hostname}: written by Anthemion from its intent; edits here are found as drift`;

/** The daemons’ own lines, with the profile BGP runs by. */
export const frrHead = ({ hostname }: SystemPart, policyRequired: boolean): string =>
  `frr defaults ${policyRequired ? 'traditional' : 'datacenter'}
hostname ${hostname}
service integrated-vtysh-config
log syslog informational
!`;

const ELSE = /^(service integrated-vtysh-config|log (syslog|file|stdout)\b.*|no service .*|ip forwarding)$/;
const daemonLine: TopLines[string] = (_words, line, reading) => {
  // What is sent through the switch goes no further; what it says itself does.
  if (line === 'no ip forwarding') return { why: 'it passes nothing on', taken: true, doubts: [] };
  return ELSE.test(line) && reading.at([]);
};

export const systemLines: TopLines = {
  hostname: (w, _line, reading) => {
    reading.draft.hostname = w[1] ?? '';
    return reading.at(['hostname']);
  },
  service: daemonLine,
  log: daemonLine,
  no: daemonLine,
  ip: daemonLine,
};
