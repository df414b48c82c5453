import { parseCidr, parseIpv4 } from '../numbers/ipv4.ts';

/** A question to the network model. */
export type Question =
  /** Routes of a switch, of one VRF or outside of all; all of them, or those that lead to an address. */
  | { readonly ask: 'routes'; readonly host: string; readonly vrf?: string; readonly to?: string }
  /** Whether one server reaches another, by which way. */
  | { readonly ask: 'reach'; readonly from: string; readonly to: string }
  /** Who has a route to an address or a prefix. */
  | { readonly ask: 'prefix'; readonly prefix: string }
  /** What the network answers otherwise than before. */
  | { readonly ask: 'differs' }
  /** Who carries a VNI, and hears whom. */
  | { readonly ask: 'vni'; readonly vni: number };

const HOW =
  'a question is “routes SWITCH [in VRF] [to ADDRESS]”, “reach SERVER SERVER”, “hears ADDRESS” or “hears PREFIX”, “hears vni NUMBER”, or “differs”';

/** Reads a question of words; a string says how one is put. */
export function readQuestion(words: readonly string[]): Question | string {
  const [ask, first, second, ...rest] = words;
  if (ask === 'differs' && first === undefined) return { ask };
  if (first === undefined) return HOW;
  switch (ask) {
    case 'routes': {
      const said: { vrf?: string; to?: string } = {};
      for (let at = 2; at < words.length; at += 2) {
        const value = words[at + 1];
        if (value === undefined) return HOW;
        if (words[at] === 'in') said.vrf = value;
        else if (words[at] !== 'to') return HOW;
        else if (parseIpv4(value) === null) return `${value} is no IPv4 address`;
        else said.to = value;
      }
      return { ask, host: first, ...said };
    }
    case 'reach':
      return second === undefined || rest.length > 0 ? HOW : { ask, from: first, to: second };
    case 'hears': {
      if (first === 'vni') {
        const vni = Number(second);
        return Number.isInteger(vni) && vni > 0 && vni < 2 ** 24 && rest.length === 0 ? { ask: 'vni', vni } : HOW;
      }
      const prefix = first.includes('/') ? first : `${first}/32`;
      return second === undefined && parseCidr(prefix) ? { ask: 'prefix', prefix } : HOW;
    }
    default:
      return HOW;
  }
}
