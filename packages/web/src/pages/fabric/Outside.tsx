import { outsideKey, subjectParts } from '@anthemion/core';
import { useMay } from '../../app/session.ts';
import { Empty } from '../../parts/basics.tsx';
import { LinkButton } from '../../parts/LinkButton.tsx';
import { FabricPage, useFabricView, useSelection } from './FabricFrame.tsx';
import { NeighbourForm } from './NeighbourForm.tsx';
import { NeighboursOutside, NEW_NEIGHBOUR } from './NeighboursOutside.tsx';
import { OtherSide } from './OtherSide.tsx';
import { JoinForm, LinkForm, racksOutward } from './LinkForm.tsx';
import { NEW_LINK, OutsideLinks } from './OutsideLinks.tsx';

/** What leads out of a fabric: cables of its borders, and the routers there that tenants speak to. */
export function Outside() {
  const { fabric } = useFabricView();
  const [at, select] = useSelection();
  const may = useMay('designer');
  const done = (): void => select(null);
  const speaking = at?.startsWith('neighbour:') === true || at === NEW_NEIGHBOUR;
  const key = at === null || at === NEW_NEIGHBOUR ? null : subjectParts(at as never).key;
  const link = at?.startsWith('outside:') ? fabric.intent.outside.find((o) => outsideKey(o) === key) : undefined;
  const nothing = racksOutward(fabric.intent).length === 0 && fabric.intent.outside.length === 0;
  return (
    <FabricPage
      flush
      aside={
        !may ? undefined : speaking ? (
          <NeighbourForm key={at} of={key} onDone={done} />
        ) : at === NEW_LINK ? (
          <JoinForm onDone={done} />
        ) : link ? (
          <LinkForm key={key} known={link} onDone={done} />
        ) : undefined
      }
      asideLabel={speaking ? 'Neighbour outside' : link ? 'Outside link' : 'Join something outside'}
    >
      {nothing ? (
        <Empty title="Nothing leads out of it" action={<LinkButton to="/patterns">Patterns</LinkButton>}>
          Cables to what is outside leave by racks that are borders. None is: give their rack pattern the duty border.
        </Empty>
      ) : (
        <>
          <OutsideLinks />
          <NeighboursOutside />
          <OtherSide of="routers" />
        </>
      )}
    </FabricPage>
  );
}
