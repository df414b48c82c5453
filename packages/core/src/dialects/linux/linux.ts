import type { Dialect } from '../dialect.ts';
import { parseLinux } from './parse.ts';
import { renderLinux } from './render.ts';

/** Linux switches: ifupdown2 for interfaces, FRR for routing. Expresses ESI multihoming on LAGs; has no MLAG. */
export const linux: Dialect = {
  name: 'linux',
  fileNames: ['interfaces', 'frr.conf'],
  paths: { interfaces: '/etc/network/interfaces', 'frr.conf': '/etc/frr/frr.conf' },
  render: renderLinux,
  parse: parseLinux,
};
