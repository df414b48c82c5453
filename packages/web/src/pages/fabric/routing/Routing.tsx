import { NavLink, useParams, useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api, problemOf } from '../../../app/api.ts';
import { Empty, Failure, Waiting } from '../../../parts/basics.tsx';
import { token } from '../../../parts/theme.ts';
import { FabricPage, useFabricView, useSelection } from '../FabricFrame.tsx';
import { NeighbourFacts, Neighbours, rowKeyOf } from './Neighbours.tsx';
import { Policies } from './Policies.tsx';
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
  const isRoute = part === 'routes' && at !== null && (at === NEW_ROUTE || at.startsWith('route:'));
  const route = isRoute ? (at === NEW_ROUTE ? null : at.slice('route:'.length)) : undefined;
  const aside =
    route === undefined ? (
      picked && <NeighbourFacts row={picked} />
    ) : (
      <RouteForm key={at} of={route} onDone={() => select(null)} />
    );
  return (
    <FabricPage flush aside={aside} asideLabel={route === undefined ? 'Neighbours' : 'Static route'}>
      <Parts aria-label="Parts of routing">
        <NavLink to={base} end>
          Neighbours
        </NavLink>
        <NavLink to={`${base}/prefix`}>Who has a prefix</NavLink>
        <NavLink to={`${base}/policies`}>Policies</NavLink>
        <NavLink to={`${base}/routes`}>Static routes</NavLink>
      </Parts>
      {part === 'prefix' ? (
        <WhoHas />
      ) : part === 'routes' ? (
        <StaticRoutes />
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
