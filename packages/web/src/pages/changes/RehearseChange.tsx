import { MOST_REHEARSED, type ChangeAnswer, type RehearsalAnswer } from '@anthemion/contract';
import { toast } from 'sonner';
import { problemOf } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { watchApi } from '../../app/watchApi.ts';
import { Button, Cap, Faded, Failure, Mono, Note, Row, Waiting } from '../../parts/basics.tsx';
import { FindingList } from '../../parts/ProofReportView.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago, dated } from '../../parts/times.ts';

const together = (words: readonly string[]): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
const comparedWords = (r: RehearsalAnswer): string =>
  together(Object.entries(r.compared).map(([kind, n]) => `${n} ${kind}`)) || 'nothing';

/** What came of it: where the daemons do otherwise than the proof says, or that they do not. */
function Held({ r, fabric, seatOf }: { r: RehearsalAnswer; fabric: string; seatOf: ReadonlyMap<string, string> }) {
  return (
    <>
      {r.findings.length === 0 && Object.keys(r.compared).length === 0 ? (
        <Note $tone="wait">
          Every text was taken whole, but nothing could be compared: no session, route or server.
        </Note>
      ) : r.findings.length === 0 ? (
        <Row $gap={9}>
          <StateMark mood="bloom" size={16} />
          <span>
            <b>The daemons do what the proof says.</b> <Faded>Compared: {comparedWords(r)}.</Faded>
          </span>
        </Row>
      ) : (
        <>
          <p style={{ marginBottom: 6 }}>
            <b>The daemons do otherwise in {r.findings.length}.</b> <Faded>Compared: {comparedWords(r)}.</Faded>
          </p>
          <FindingList findings={r.findings} titleOf={() => 'Rehearsed'} fabric={fabric} seatOf={seatOf} />
        </>
      )}
      {r.unsure > 0 && <Faded>Of {r.unsure} answers the proof itself is not sure; they were not compared.</Faded>}
      {r.notShown.length > 0 && (
        <details>
          <summary>
            <Faded>What the kernel here cannot show: {r.notShown.length}</Faded>
          </summary>
          <ul>
            {r.notShown.map((what) => (
              <li key={what}>
                <Faded>{what}</Faded>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** Runs what a change would send on real daemons, and shows what they do otherwise than its proof says. */
export function RehearseChange({ change: c, seatOf }: { change: ChangeAnswer; seatOf: ReadonlyMap<string, string> }) {
  const query = watchApi.useRehearsalQuery(c.id);
  const [rehearse, asking] = watchApi.useRehearseMutation();
  const mayDesign = useMay('designer', c.fabric);
  const r = query.data;
  const begin = async (): Promise<void> => {
    const result = await rehearse(c.id);
    if (result.error) toast.error(problemOf(result.error).detail);
  };
  if (query.isError) return <Failure detail={problemOf(query.error).detail} onRetry={() => void query.refetch()} />;
  return (
    <section aria-label="Rehearsal">
      <Cap>Rehearsal</Cap>
      <div aria-live="polite" style={{ margin: '6px 0 8px' }}>
        {r === undefined && <Waiting />}
        {r === null && (
          <Faded>
            Run the texts of this change on real daemons on the server, away from every switch: the switches that change
            and those they are cabled to, {MOST_REHEARSED} at most. It takes about a minute.
          </Faded>
        )}
        {r?.state === 'running' && <Waiting what={`${r.hosts.length} of ${r.of} switches: ${r.step}`} />}
        {r?.state === 'not held' && <Note $tone="wait">It could not be rehearsed: {r.why}</Note>}
        {r?.state === 'broken off' && <Note $tone="wait">The server ended while it ran; nothing came of it.</Note>}
        {r?.state === 'held' && <Held r={r} fabric={c.fabric} seatOf={seatOf} />}
        {r && r.state !== 'running' && (
          <p>
            <Faded title={dated(r.endedAt ?? r.at)}>
              By {r.by}, {ago(r.endedAt ?? r.at)}; {r.hosts.length} of {r.of} switches:{' '}
            </Faded>
            <Mono>{r.hosts.join(' ')}</Mono>
          </p>
        )}
        {r && r.version !== c.version && <Note $tone="wait">The change was altered since: rehearse it again.</Note>}
      </div>
      {mayDesign && r?.state !== 'running' && r !== undefined && (
        <Button onPress={() => void begin()} isDisabled={asking.isLoading}>
          {r === null ? 'Rehearse' : 'Rehearse again'}
        </Button>
      )}
    </section>
  );
}
