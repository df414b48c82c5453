import type { TrafficAnswer } from '@anthemion/contract';
import { busyPorts, plural, type DrainStand } from '@anthemion/core';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { bitRate } from '../../parts/bitRate.ts';
import { Button, Cap, Faded, Mono, Note, Row, Rule } from '../../parts/basics.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { token } from '../../parts/theme.ts';
import { useFabricView } from './FabricFrame.tsx';

const NAMED = 6;
/** Ports that are named of those over which something goes. */
const SHOWN = 5;
const named = (names: readonly string[]): string =>
  `${names.slice(0, NAMED).join(', ')}${names.length > NAMED ? ` and ${names.length - NAMED} more` : ''}`;

/** Whether a seat is drained: by the open change, and by what runs. */
export function useDrain(seat: string): {
  /** Is it to be, by the open change or by what is live? */
  readonly meant: boolean;
  readonly stand: DrainStand | null;
  readonly words: string | null;
} {
  const { fabric, stands } = useFabricView();
  const meant = fabric.intent.drained.some((d) => d.seat === seat);
  const stand = stands.get(seat)?.drain ?? null;
  return { meant, stand, words: drainWords(meant, stand) };
}
/** Null = nothing is to be said. */
export function drainWords(meant: boolean, stand: DrainStand | null): string | null {
  if (stand === null) return meant ? 'to be drained' : null;
  if (!meant) return 'to be brought back';
  return stand.asks === true ? 'drained' : stand.asks === null ? 'to be drained, unread' : 'waits to be drained';
}

/** Whether the switch of a seat is drained, what still hangs on it, what goes over its ports now; and the way there and back. */
export function DrainNotes({ seat, host }: { readonly seat: string; readonly host: string }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const { meant, stand, words } = useDrain(seat);
  const isFilled = fabric.intent.seating[seat] !== undefined;
  const [ask, traffic] = api.useLazyTrafficQuery();
  return (
    <>
      <Rule />
      <Cap>Traffic</Cap>
      {words !== null && (
        <Row $gap={7}>
          <StateMark mood={words === 'drained' ? 'folded' : 'dewed'} size={16} />
          <span>
            <Mono>{host}</Mono> {words}
          </span>
        </Row>
      )}
      {stand?.asks === true && <Hanging {...stand} />}
      <Row>
        {may && (
          <Button onPress={() => void makeEdits([{ kind: meant ? 'bringBack' : 'drainSeat', seat }])}>
            {meant ? 'Bring it back' : 'Drain it'}
          </Button>
        )}
        {isFilled && (
          <Button isDisabled={traffic.isFetching} onPress={() => void ask({ name: fabric.name, seat })}>
            {traffic.isFetching ? 'Counting …' : 'Count its traffic'}
          </Button>
        )}
      </Row>
      {traffic.isError && !traffic.isFetching && <Note $tone="bad">{problemOf(traffic.error).detail}</Note>}
      {traffic.isSuccess && !traffic.isFetching && <Counted {...traffic.data} />}
    </>
  );
}

function Hanging({ stillOver, serversAlone }: DrainStand) {
  return (
    <>
      {stillOver === 0 ? (
        <span>No two others go over it.</span>
      ) : (
        <Note $tone="wait">
          {stillOver === null
            ? 'Whether others still go over it is not looked at, with so many switches: count its traffic.'
            : `${plural(stillOver, 'pair')} of other switches still ${stillOver === 1 ? 'goes' : 'go'} over it.`}
        </Note>
      )}
      {serversAlone.length > 0 && (
        <Note $tone="wait">
          {plural(serversAlone.length, 'server')} {serversAlone.length === 1 ? 'is' : 'are'} on it alone:{' '}
          {named(serversAlone)}.
        </Note>
      )}
    </>
  );
}

/** What its ports counted while one waited. */
function Counted(answer: TrafficAnswer) {
  const { host, ports, anew, seconds } = answer;
  const busy = busyPorts(answer);
  const most = ports[0];
  return (
    <>
      {busy.length === 0 && (
        <Row $gap={7} $align="start">
          <StateMark mood={anew.length > 0 ? 'dewed' : 'bloom'} size={16} />
          <span>
            {most === undefined
              ? 'Its ports have counted nothing'
              : `Quiet: ${bitRate(Math.max(most.in, most.out))} at most, on ${most.port} to ${most.to}`}
          </span>
        </Row>
      )}
      {busy.length > 0 && (
        <>
          <span>
            Traffic on {busy.length} of {plural(ports.length, 'port')}, in and out
          </span>
          <Ports>
            {busy.slice(0, SHOWN).map((p) => (
              <li key={p.port}>
                <Mono>{p.port}</Mono>
                <Faded>{p.to}</Faded>
                <span>
                  {bitRate(p.in)}, {bitRate(p.out)}
                </span>
              </li>
            ))}
          </Ports>
          {busy.length > SHOWN && <Faded>and on {plural(busy.length - SHOWN, 'more port')}</Faded>}
        </>
      )}
      {anew.length > 0 && <Faded>Counters of {named(anew)} began anew meanwhile; of them nothing is known.</Faded>}
      <Faded>
        Counted by {host} for {seconds.toFixed(1)} s
      </Faded>
    </>
  );
}
const Ports = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 12.5px;
  li {
    display: grid;
    grid-template-columns: 34px 1fr auto;
    gap: 6px;
    padding: 3px 0;
    border-top: 1px solid ${token('rule-soft')};
  }
`;
