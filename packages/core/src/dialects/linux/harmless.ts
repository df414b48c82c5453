import { harmless, type Block, type TopLines } from './blocks.ts';
import { otherIpv6 } from './bgpShared.ts';

const SAYS_ITSELF = 'it says how one works on the switch, not what it does';
const LOGS = 'it says what is written into the log';

/** Blocks of which no line matters. */
const session: Block<null> = {
  name: 'line vty',
  read: (w) =>
    /^(exec-timeout|access-class|ipv6|login|no|history|length|width)$/.test(w[0]!) ? harmless(SAYS_ITSELF) : false,
};

/** What zebra says of IPv6 outside of all blocks. */
const OF_IPV6 = /^(access-list|forwarding|import-table|nht|prefix-list|protocol|router-id|table)$/;

const always =
  (because: string): TopLines[string] =>
  () =>
    harmless(because);

/** Lines outside of all blocks that the daemons take and no answer hangs on. */
export const harmlessLines: TopLines = {
  line: (w, _line, reading) => (w[1] === 'vty' ? reading.open(session, null, []) : false),
  debug: always(LOGS),
  banner: always(SAYS_ITSELF),
  domainname: always(SAYS_ITSELF),
  password: always(SAYS_ITSELF),
  enable: always(SAYS_ITSELF),
  agentx: always('it shows what is there to a monitor'),
  service: always(SAYS_ITSELF),
  log: always(LOGS),
  ipv6: (w, line) => {
    if (w[1] === 'forwarding' || w[1] === 'nht')
      return harmless('a switch forwards, and next hops are resolved without a default route');
    return OF_IPV6.test(w[1] ?? '') && otherIpv6(line);
  },
  no: (w, line) => {
    if (w[1] === 'ipv6') return OF_IPV6.test(w[2] ?? '') && otherIpv6(line);
    return /^(debug|log|service|banner)$/.test(w[1] ?? '') && harmless(SAYS_ITSELF);
  },
  ip: (w) =>
    w[1] === 'nht'
      ? harmless('next hops of the fabric are next door, and resolved without a default route')
      : w[1] === 'as-path' || w[1] === 'community-list'
        ? 'this form of the line is gone: it begins with bgp'
        : false,
  zebra: always('it says how next hops are kept in the kernel'),
};
