import { problem, type Finding } from '../../finding.ts';
import {
  familyOf,
  formatAny,
  hostPrefix,
  isHost,
  isLinkLocal,
  networkOfAny,
  parseAnyCidr,
} from '../../numbers/prefix.ts';
import { isRouted } from '../../patterns/patterns.ts';
import { routes } from '../collections/routes.ts';
import { changeSentence } from '../collections/sentences.ts';
import { routeKey, type FabricIntent, type TenantRoute } from '../intent.ts';
import { neighbourPlace, placeWords } from '../neighbourPlace.ts';
import { racksWords } from '../racksText.ts';
import { routeSchema } from '../schemas/objects.ts';
import { leadsAround } from './checkBehind.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Has the leaves of some racks say a static route in a tenant, or otherwise than so far. */
export interface PutRoute {
  readonly kind: 'putRoute';
  readonly route: TenantRoute;
}

const at = (field: string, rule: string, message: string, cure: string): Finding =>
  problem(rule, `/route/${field}`, message, cure);

function misfit(intent: FabricIntent, route: TenantRoute): Finding[] {
  const { vrf, prefix, via, racks } = route;
  if (!isRouted(intent))
    return [
      at('vrf', 'fabric-routed', 'Nothing is routed in a switched fabric.', 'Say it where its networks are routed.'),
    ];
  const out: Finding[] = [];
  if (!intent.vrfs.some((v) => v.name === vrf))
    out.push(at('vrf', 'vrf-known', `There is no VRF ${vrf}.`, 'Choose a VRF of this fabric, or add it first.'));
  const said = parseAnyCidr(prefix)!;
  const canonical = formatAny(networkOfAny(said));
  if (canonical !== prefix)
    out.push(
      at('prefix', 'route-form', `${prefix} has host bits set, or is written otherwise.`, `Write ${canonical}.`),
    );
  const hop = via === undefined ? null : hostPrefix(via);
  if (via !== undefined && (!hop || !isHost(hop)))
    out.push(
      at('via', 'route-form', `“${via}” is no address.`, 'Write one, or leave it empty to drop what goes there.'),
    );
  else if (hop && familyOf(hop) !== familyOf(said))
    out.push(
      at('via', 'route-form', `${via} is of another family than ${prefix}.`, 'Use a next hop of the same family.'),
    );
  else if (hop && isLinkLocal(hop))
    out.push(
      at('via', 'route-form', `${via} is an address of one link alone.`, 'Use an address of a network of the tenant.'),
    );
  const around = intent.neighbours.find((n) => leadsAround(route, n));
  if (around)
    out.push(
      at(
        'prefix',
        'neighbour-behind',
        `${vrf} speaks to ${around.loopback} over ${placeWords(neighbourPlace(around))}: a route to it is there by itself.`,
        'Leave it out, or let that neighbour speak from its address on the link.',
      ),
    );
  const strange = racks.find((n) => !intent.racks.some((r) => r.number === n));
  if (strange !== undefined)
    out.push(at('racks', 'rack-known', `There is no rack ${strange}.`, 'Choose racks of this fabric.'));
  if (racks.length === 0)
    out.push(at('racks', 'racks-given', 'It is said on no rack.', 'Name the racks whose leaves say it.'));
  return out;
}

export const putRoute: EditKindOf<PutRoute> = {
  kind: 'putRoute',
  schema: editFields('putRoute', { route: routeSchema }),
  apply: (intent, { route }) => unless(misfit(intent, route), intent, () => routes.put(intent, routeKey(route), route)),
  sentence: ({ route: r }, before) =>
    before?.routes.some((o) => routeKey(o) === routeKey(r))
      ? changeSentence(before, 'route', routeKey(r), r)
      : `Route ${r.prefix} of ${r.vrf} ${r.via === undefined ? 'to nothing' : `to ${r.via}`} on ${racksWords(r.racks)}`,
  subjects: ({ route }) => [`route:${routeKey(route)}`],
  makes: {
    of: 'route',
    add: (route) => ({ kind: 'putRoute', route }),
    change: (route) => ({ kind: 'putRoute', route }),
  },
};
