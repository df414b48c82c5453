import type { RouteMap } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { sameContent } from '../numbers/content.ts';

type Policed = Pick<SwitchConfig, 'routeMaps' | 'bgp' | 'ospf' | 'ospf6'>;

/** Does a value hold a text of some, however deep? */
function holdsText(value: unknown, texts: ReadonlySet<string>): boolean {
  if (typeof value === 'string') return texts.has(value);
  return typeof value === 'object' && value !== null && Object.values(value).some((v) => holdsText(v, texts));
}

/** Does anything but routers of tenants say the name of such a map, or may it be that of something else there? */
function isSaidOutside({ bgp, ospf, ospf6, routeMaps }: Policed, names: ReadonlySet<string>): boolean {
  const { vrfs: _, ...router } = bgp ?? { vrfs: [] };
  return (
    holdsText([router, ospf, ospf6], names) ||
    // Another map that calls it may be asked by anybody.
    routeMaps.some((m) => !names.has(m.name) && m.entries.some((e) => e.call !== undefined && names.has(e.call)))
  );
}

/** Are the route maps of two switches the same for all but their tenants? Large fabrics have one map of tenants on every switch. */
export function sameOuterMaps(a: Policed, b: Policed): boolean {
  if (sameContent(a.routeMaps, b.routeMaps)) return true;
  const [old, now] = [a, b].map(({ routeMaps }) => new Map(routeMaps.map((m) => [m.name, m])));
  const unlike = (own: ReadonlyMap<string, RouteMap>, other: ReadonlyMap<string, RouteMap>): string[] =>
    [...own].flatMap(([name, m]) => (sameContent(m, other.get(name)) ? [] : name));
  const names = new Set([...unlike(old!, now!), ...unlike(now!, old!)]);
  return !isSaidOutside(a, names) && !isSaidOutside(b, names);
}
