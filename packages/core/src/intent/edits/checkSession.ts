import { problem, type Finding } from '../../finding.ts';
import type { IpFamily } from '../../numbers/address.ts';
import { refusedAsn } from '../../numbers/asn.ts';
import { familyOfText } from '../../numbers/prefix.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent.ts';

/** What all who are spoken to have alike: a number that one may have, a secret and maps that are there. */
export function checkSession(
  intent: FabricIntent,
  base: string,
  { asn, password, ...maps }: Pick<OutsideNeighbour, 'asn' | 'password' | 'mapIn' | 'mapOut'>,
): Finding[] {
  const out: Finding[] = [];
  const refused = refusedAsn(asn);
  if (refused !== null)
    out.push(problem('asn-usable', `${base}/asn`, `AS ${asn} is ${refused}.`, 'Write the AS number the router has.'));
  if (password !== undefined && !intent.secrets.some((s) => s.name === password))
    out.push(
      problem(
        'secret-known',
        `${base}/password`,
        `${intent.name} has no secret ${password}.`,
        intent.secrets.length > 0
          ? `It has ${intent.secrets.map((s) => s.name).join(', ')}.`
          : 'Take one up under Text › Snippets first.',
      ),
    );
  return [...out, ...checkMaps(intent, base, { mapIn: maps.mapIn, mapOut: maps.mapOut })];
}

/** Route maps that are used by their name, by the field that says so, are there. */
export function checkMaps(
  intent: FabricIntent,
  base: string,
  used: Readonly<Record<string, string | undefined>>,
): Finding[] {
  const known = intent.policies.flatMap((p) => (p.is === 'route-map' ? p.name : []));
  return Object.entries(used).flatMap(([field, name]) =>
    name === undefined || known.includes(name)
      ? []
      : problem(
          'policy-known',
          `${base}/${field}`,
          `There is no route map ${name}.`,
          known.length > 0 ? `There is ${known.join(', ')}.` : 'Add it under Routing › Policies first.',
        ),
  );
}

/** What is told is of the family of the session. */
export const checkTold = <K extends string>(
  base: string,
  said: { readonly [P in K]?: readonly string[] },
  fields: readonly K[],
  family: IpFamily,
  session = 'the session',
): Finding[] =>
  fields.flatMap((field) => {
    const strange = (said[field] ?? []).find((p) => familyOfText(p) !== family);
    return strange === undefined
      ? []
      : [
          problem(
            'prefix-family',
            `${base}/${field}`,
            `${strange} is of IPv${familyOfText(strange)}; ${session} is of IPv${family}.`,
            'Say it of a session of that family.',
          ),
        ];
  });
