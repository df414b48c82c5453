import { isSubject, subjectParts, type ObjectKind } from '@anthemion/core';

/** The page of a fabric that shows an object, below its address, and what a link there says. */
type Lead = readonly [page: string, words: string];

/** Where objects of a kind are shown; what is not here has no page of its own. */
const PAGES: Partial<Record<ObjectKind, (at: string, key: string) => Lead>> = {
  network: (at, key) => [`/tenants?at=${at}`, `to network ${key}`],
  vrf: (at, key) => [`/tenants?at=${at}`, `to VRF ${key}`],
  neighbour: (at) => [`/outside?at=${at}`, 'to the neighbour'],
  speakers: (at) => [`/routing/servers?at=${at}`, 'to the BGP servers'],
  outside: (at) => [`/outside?at=${at}`, 'to the link outside'],
  link: () => ['/cables', 'to the cables'],
  drain: (_at, key) => [`/seats?at=seat:${encodeURIComponent(key)}`, 'to the seat'],
  leak: (at) => [`/routing/between?at=${at}`, 'to the routes between VRFs'],
  route: (at) => [`/routing/routes?at=${at}`, 'to the static route'],
  policy: (at) => [`/routing/policies?at=${at}`, 'to the policy'],
  rack: (at, key) => [`?at=${at}`, `to rack ${key}`],
  seat: (at) => [`/seats?at=${at}`, 'to the seat'],
  port: (at, key) => [`/ports?rack=${key.split('.')[0] ?? ''}&at=${at}`, 'to the port'],
  fabric: () => ['', 'to the fabric'],
  spines: () => ['', 'to the fabric'],
  waiver: (_at, key) => [`/proof?waive=${encodeURIComponent(key)}`, 'to the waiver'],
  snippet: () => ['/text', 'to the text'],
  setting: () => ['/values', 'to the values'],
  pool: () => ['/values', 'to the values'],
};

/** Where an object of a fabric is shown; null = nowhere by itself. */
export function subjectLead(fabric: string, subject: string): { readonly to: string; readonly text: string } | null {
  if (!isSubject(subject)) return null;
  const { kind, key } = subjectParts(subject);
  const lead = PAGES[kind]?.(encodeURIComponent(subject).replaceAll('%3A', ':'), key);
  return lead ? { to: `/fabrics/${fabric}${lead[0]}`, text: lead[1] } : null;
}
