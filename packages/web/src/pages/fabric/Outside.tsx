import { useSearchParams } from 'react-router';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { Empty } from '../../parts/basics.tsx';
import { LinkButton } from '../../parts/LinkButton.tsx';
import { fabricCrumbs, fabricSub, FabricTabs, fabricTitle, useFabricView } from './FabricFrame.tsx';
import { NEIGHBOUR_PARAM, NeighbourForm, NeighboursOutside } from './NeighboursOutside.tsx';
import { JoinForm, OutsideLinks, racksOutward } from './OutsideLinks.tsx';

/** What leads out of a fabric: cables of its borders, and the routers there that tenants speak to. */
export function Outside() {
  const { fabric, change } = useFabricView();
  const [params, setParams] = useSearchParams();
  const may = useMay('designer');
  const joining = may && params.get('new') === 'link';
  const speaking = may ? params.get(NEIGHBOUR_PARAM) : null;
  const done = (): void => setParams({}, { replace: true });
  const nothing = racksOutward(fabric.intent).length === 0 && fabric.intent.outside.length === 0;
  return (
    <Page
      title={fabricTitle(fabric)}
      sub={fabricSub(fabric, change)}
      crumbs={fabricCrumbs(fabric.name)}
      tabs={<FabricTabs />}
      flush
      aside={
        speaking !== null ? (
          <NeighbourForm key={speaking} of={speaking} onDone={done} />
        ) : joining ? (
          <JoinForm onDone={done} />
        ) : undefined
      }
      asideLabel={speaking !== null ? 'Neighbour outside' : 'Join something outside'}
    >
      {nothing ? (
        <Empty title="Nothing leads out of it" action={<LinkButton to="/patterns">Patterns</LinkButton>}>
          Cables to what is outside leave by racks that are borders. None is: give their rack pattern the duty border.
        </Empty>
      ) : (
        <>
          <OutsideLinks />
          <NeighboursOutside />
        </>
      )}
    </Page>
  );
}
