import { capital } from '../capital.ts';
import { sameContent } from '../numbers/content.ts';
import { naturally } from '../numbers/order.ts';
import type { Member } from './section.ts';
import { SECTIONS } from './sections.ts';
import type { Place, SwitchConfig } from './switchConfig.ts';

/** One thing in which two configurations of a switch differ. */
export interface ConfigDifference {
  readonly place: Place;
  /** What is meant; undefined = nothing there. */
  readonly meant: unknown;
  /** What runs; undefined = nothing there. */
  readonly runs: unknown;
}

/** Lists whose members have names, by the fields that lead to them. */
const MEMBERS: Readonly<Record<string, Member>> = Object.assign({}, ...SECTIONS.map((s) => s.members));
const WORDS: Readonly<Record<string, string>> = Object.assign({}, ...SECTIONS.map((s) => s.words));

const isPlain = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
/** `fields` = the fields that lead here, without the names of members. */
function walk(place: readonly string[], fields: string, meant: unknown, runs: unknown, out: ConfigDifference[]): void {
  if (sameContent(meant, runs)) return;
  const member = MEMBERS[fields];
  if (member) {
    const byKey = (list: unknown): Map<string, unknown> =>
      new Map(((list ?? []) as readonly never[]).map((item) => [member.key(item), item]));
    const [left, right] = [byKey(meant), byKey(runs)];
    for (const name of new Set([...left.keys(), ...right.keys()])) {
      const [a, b] = [left.get(name), right.get(name)];
      const there = [...place, name];
      if (a === undefined || b === undefined)
        out.push({ place: there as readonly string[] as Place, meant: a, runs: b });
      else walkFields(there, fields, a as object, b as object, out);
    }
  } else if (isPlain(meant) && isPlain(runs)) walkFields(place, fields, meant, runs, out);
  else out.push({ place: place as Place, meant, runs });
}
function walkFields(
  place: readonly string[],
  fields: string,
  meant: object,
  runs: object,
  out: ConfigDifference[],
): void {
  const [a, b] = [meant as Readonly<Record<string, unknown>>, runs as Readonly<Record<string, unknown>>];
  for (const part of new Set([...Object.keys(a), ...Object.keys(b)]))
    walk([...place, part], fields === '' ? part : `${fields}.${part}`, a[part], b[part], out);
}

/** In what a switch differs from what is meant, place by place, in natural order of the places. */
export function configDifferences(meant: SwitchConfig, runs: SwitchConfig): ConfigDifference[] {
  const out: ConfigDifference[] = [];
  walkFields([], '', meant, runs, out);
  return out.sort((a, b) => naturally(a.place.join(' '), b.place.join(' ')));
}

/** `mtu of port p7`, in words. */
function placeWords(place: readonly string[]): { readonly field: string; readonly of: string } {
  const of: string[] = [];
  let [field, fields] = ['', ''];
  for (let i = 0; i < place.length; i++) {
    const part = place[i]!;
    fields = fields === '' ? part : `${fields}.${part}`;
    const member = MEMBERS[fields];
    if (member && i + 1 < place.length) {
      of.unshift(`${member.word} ${place[++i]}`);
      field = '';
    } else if (i < place.length - 1) of.unshift(WORDS[part] ?? part);
    else field = WORDS[part] ?? part;
  }
  // Neighbours and VNIs are BGP's; it need not be said of them.
  return { field, of: of[0] !== undefined && /^(BGP|EVPN) /.test(of[0]) ? of[0] : of.join(' of ') };
}

function valueWords(value: unknown): string {
  if (value === undefined) return 'nothing';
  if (value === true) return 'on';
  if (value === false) return 'off';
  if (Array.isArray(value)) {
    if (value.length === 0) return 'none';
    const shown = value.slice(0, 8).map((v) => (typeof v === 'object' ? '…' : String(v)));
    return `${shown.join(', ')}${value.length > 8 ? ` and ${value.length - 8} more` : ''}`;
  }
  if (isPlain(value)) {
    const said = Object.entries(value).flatMap(([k, v]) =>
      v === undefined || (Array.isArray(v) && v.length === 0) ? [] : [`${WORDS[k] ?? k} ${valueWords(v)}`],
    );
    return said.join(', ') || 'nothing more';
  }
  return String(value);
}

/** What differs, as a heading: `Mtu of port p7`, or a thing that one side has and the other has not. */
function differing(place: Place): { readonly what: string; readonly isWhole: boolean } {
  const { field, of } = placeWords(place);
  if (field === '') return { what: capital(of), isWhole: true };
  return { what: capital(of === '' ? field : `${field} of ${of}`), isWhole: false };
}

/** The difference as a sentence for people: “p7 is shut by hand, meant open”. */
export function sayDifference({ place, meant, runs }: ConfigDifference): string {
  if (place[0] === 'ports' && place[2] === 'shut')
    return runs === true ? `${place[1]} is shut by hand, meant open` : `${place[1]} is open by hand, meant shut`;
  const { what, isWhole } = differing(place);
  if (isWhole) return meant === undefined ? `${what} was added` : `${what} is missing`;
  return `${what}: runs ${valueWords(runs)}, meant ${valueWords(meant)}`;
}

/**
 * What is said on the left and on the right, as a sentence: “Mtu of port p7: 1500 → 9000”.
 * @param sides what to call them where just one has a thing: `revision 3`, `sk-lf-01`
 */
export function sayBetween(
  { place, meant: left, runs: right }: ConfigDifference,
  sides: { readonly left: string; readonly right: string },
): string {
  if (place[0] === 'ports' && place[2] === 'shut')
    return right === true ? `${place[1]}: open → shut` : `${place[1]}: shut → open`;
  const { what, isWhole } = differing(place);
  if (isWhole) return `${what}: only in ${left === undefined ? sides.right : sides.left}`;
  return `${what}: ${valueWords(left)} → ${valueWords(right)}`;
}
