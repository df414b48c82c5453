import { harmless, type Block, type TopLines } from './blocks.ts';

const SAYS_ITSELF = 'it says how one works on the switch, not what it does';
const LOGS = 'it says what is written into the log';
const NOT_ASKED = 'of IPv6 nothing is computed, and IPv4 does not hang on it';

/** Blocks of which no line matters. */
const session: Block<null> = {
  name: 'line vty',
  read: (w) =>
    /^(exec-timeout|access-class|ipv6|login|no|history|length|width)$/.test(w[0]!) ? harmless(SAYS_ITSELF) : false,
};

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
  'access-list': always('what uses the list is judged where it stands'),
  ipv6: always(NOT_ASKED),
  no: (w) => (/^(debug|log|service|banner|ipv6)$/.test(w[1] ?? '') ? harmless(SAYS_ITSELF) : false),
  ip: (w) =>
    w[1] === 'nht'
      ? harmless('next hops of the fabric are next door, and resolved without a default route')
      : w[1] === 'as-path' || w[1] === 'community-list'
        ? 'this form of the line is gone: it begins with bgp'
        : false,
  zebra: always('it says how next hops are kept in the kernel'),
};
