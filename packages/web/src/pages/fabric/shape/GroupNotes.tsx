import type { SeatStand } from '../stands.ts';
import type { Layout, LinkStand } from '@anthemion/core';
import { AsideFoot, Button, Cap, Facts, H3, Mono, Row, Rule } from '../../../parts/basics.tsx';
import { healthMood, WORST } from '../../../parts/moods.ts';
import { StateMark } from '../../../parts/StateMark.tsx';
import type { RackGroup } from './groups.ts';
import { isWrong } from './palmetteColours.ts';

const NAMED = 8;

/** What is selected is a group of racks: how its switches and links are, the worst first. */
export function GroupNotes({
  group,
  layout,
  stands,
  links,
  onOpen,
  onLattice,
}: {
  readonly group: RackGroup;
  readonly layout: Layout;
  readonly stands: ReadonlyMap<string, SeatStand>;
  readonly links: ReadonlyMap<string, LinkStand>;
  readonly onOpen: () => void;
  readonly onLattice: () => void;
}) {
  const seats = group.seats.map((s) => stands.get(s)).filter((s) => s !== undefined);
  const own = group.seats.flatMap((s) => layout.linksOf.get(s) ?? []);
  const wrong = own.filter((l) => isWrong(links.get(l.id) ?? 'up'));
  const worst = seats
    .filter((s) => s.standing !== 'as meant')
    .sort((a, b) => WORST.indexOf(a.standing) - WORST.indexOf(b.standing));
  return (
    <>
      <Cap>Racks · {group.racks.length}</Cap>
      <H3>{group.name}</H3>
      <Facts>
        <dt>Leaves</dt>
        <dd>{group.seats.length}</dd>
        <dt>As meant</dt>
        <dd>
          {seats.filter((s) => s.health === 'as meant').length} of {group.seats.length}
        </dd>
        <dt>Links</dt>
        <dd>
          {own.length - wrong.length} of {own.length} up
        </dd>
      </Facts>
      {worst.length > 0 && (
        <>
          <Rule />
          <Cap>Worst first</Cap>
          {worst.slice(0, NAMED).map((s) => (
            <Row key={s.seat} $gap={7} $align="start">
              <StateMark mood={healthMood[s.standing]} size={16} />
              <span>
                <Mono>{s.host}</Mono> {s.standing}
                {s.byHand[0] ? `: ${s.byHand[0]}` : s.why ? `: ${s.why}` : ''}
              </span>
            </Row>
          ))}
          {worst.length > NAMED && <span>and {worst.length - NAMED} more</span>}
        </>
      )}
      <AsideFoot>
        <Button $kind="main" onPress={onOpen}>
          Open the racks
        </Button>
        <Button onPress={onLattice}>Lattice</Button>
      </AsideFoot>
    </>
  );
}
