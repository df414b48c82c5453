import { policyKey, policyOfKey, speakersKey, type FabricIntent } from '@anthemion/core';
import { NavLink, useParams, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api, problemOf } from '../../../app/api.ts';
import { useMay } from '../../../app/session.ts';
import { Empty, Faded, Failure, Waiting } from '../../../parts/basics.tsx';
import { token } from '../../../parts/theme.ts';
import { FabricPage, useFabricView, useSelection } from '../FabricFrame.tsx';
import { NeighbourFacts, Neighbours, rowKeyOf } from './Neighbours.tsx';
import { leakForm, Leaks } from './Leaks.tsx';
import { ListForm } from './ListForm.tsx';
import { MapForm } from './MapForm.tsx';
import { NEW_LIST, NEW_MAP, Policies } from './Policies.tsx';
import { NEW_SPEAKERS, Speakers } from './Speakers.tsx';
import { SpeakersForm } from './SpeakersForm.tsx';
import { NEW_ROUTE, RouteForm, StaticRoutes } from './StaticRoutes.tsx';
import { WhoHas } from './WhoHas.tsx';

/** What routers say to one another: who is whose neighbour, who has a prefix, and what policies let through. */
export function Routing() {
  const { fabric, change } = useFabricView();
  const part = useParams()['part'] ?? 'neighbours';
  const [at, select] = useSelection();
  const [params] = useSearchParams();
  const of = part === 'neighbours' ? params.get('of') : null;
  const query = api.useRoutingQuery({ name: fabric.name, change, of });
  const routing = query.currentData;
  const picked = part === 'neighbours' ? routing?.neighbours.find((r) => rowKeyOf(r) === at) : undefined;
  const base = `/fabrics/${fabric.name}/routing`;
  const may = useMay('designer');
  const close = (): void => select(null);
  const [aside, asideLabel] =
    part === 'routes'
      ? [may && at !== null && routeForm(at, close), 'Static route']
      : part === 'servers'
        ? [may && at !== null && speakersForm(at, fabric.intent, close), 'BGP servers']
        : part === 'between'
          ? [may && at !== null && leakForm(at, fabric.intent, close), 'Routes between VRFs']
          : part === 'policies'
            ? [may && at !== null && policyForm(at, fabric.intent, close), 'Routing policy']
            : [picked && <NeighbourFacts row={picked} />, 'Neighbours'];
  return (
    <FabricPage flush aside={aside} asideLabel={asideLabel}>
      <Parts aria-label="Parts of routing">
        <NavLink to={base} end>
          Neighbours
        </NavLink>
        <NavLink to={`${base}/prefix`}>Who has a prefix</NavLink>
        <NavLink to={`${base}/policies`}>Policies</NavLink>
        <NavLink to={`${base}/servers`}>BGP servers</NavLink>
        <NavLink to={`${base}/routes`}>Static routes</NavLink>
        <NavLink to={`${base}/between`}>Between VRFs</NavLink>
      </Parts>
      {part === 'prefix' ? (
        <WhoHas />
      ) : part === 'routes' ? (
        <StaticRoutes />
      ) : part === 'between' ? (
        <Leaks />
      ) : part === 'servers' ? (
        <Speakers />
      ) : query.isError ? (
        <Failure detail={problemOf(query.error).detail} onRetry={() => void query.refetch()} />
      ) : !routing ? (
        <Waiting what="Working out who speaks with whom" />
      ) : fabric.intent.pattern === '' ? (
        <Empty title="Nobody speaks with anybody yet">Lay the fabric out under Shape.</Empty>
      ) : part === 'policies' ? (
        <Policies policies={routing.policies} />
      ) : (
        <Neighbours key={of} routing={routing} of={of} />
      )}
    </FabricPage>
  );
}
/** The form of what is chosen in the address; null = it is no route. */
function routeForm(at: string, onDone: () => void) {
  if (at === NEW_ROUTE) return <RouteForm key={at} of={null} onDone={onDone} />;
  return at.startsWith(OF_ROUTE) ? <RouteForm key={at} of={at.slice(OF_ROUTE.length)} onDone={onDone} /> : null;
}
/** The same of servers. */
function speakersForm(at: string, { speakers }: FabricIntent, onDone: () => void) {
  if (at === NEW_SPEAKERS) return <SpeakersForm key={at} of={null} onDone={onDone} />;
  if (!at.startsWith(OF_SPEAKERS)) return null;
  const of = at.slice(OF_SPEAKERS.length);
  return speakers.some((s) => speakersKey(s) === of) ? (
    <SpeakersForm key={at} of={of} onDone={onDone} />
  ) : (
    <Faded>No servers of {of.replace('/', ' ')} speak BGP (any more).</Faded>
  );
}
/** The same of policies. */
function policyForm(at: string, { policies }: FabricIntent, onDone: () => void) {
  if (at === NEW_LIST) return <ListForm key={at} of={null} onDone={onDone} />;
  if (at === NEW_MAP) return <MapForm key={at} of={null} onDone={onDone} />;
  if (!at.startsWith(OF_POLICY)) return null;
  const of = at.slice(OF_POLICY.length);
  const { is, name } = policyOfKey(of);
  if (!policies.some((p) => policyKey(p) === of)) return <Faded>There is no routing policy {name} (any more).</Faded>;
  return is === 'route-map' ? (
    <MapForm key={at} of={of} onDone={onDone} />
  ) : (
    <ListForm key={at} of={of} onDone={onDone} />
  );
}
const OF_ROUTE = 'route:';
const OF_POLICY = 'policy:';
const OF_SPEAKERS = 'speakers:';

const Parts = styled.nav`
  display: flex;
  gap: 16px;
  padding: 10px 0 0;
  font-size: 13px;
  a {
    color: ${token('faded')};
    text-decoration: none;
    padding-bottom: 2px;
  }
  a.active {
    color: ${token('ink')};
    border-bottom: 2px solid ${token('verdigris')};
  }
  a:hover {
    color: ${token('ink')};
  }
`;
