import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { AskNetwork } from '../../app/AskNetwork.tsx';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { changeLeft, useAppDispatch, useAppSelector } from '../../app/store.ts';
import { AsideFoot, Button, Cap, Faded, Failure, Facts, H3, Note, Row, Rule, Waiting } from '../../parts/basics.tsx';
import { changeMood } from '../../parts/moods.ts';
import { ProofReportView } from '../../parts/ProofReportView.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ago, dated } from '../../parts/times.ts';
import { ApproveForm } from './ApproveForm.tsx';
import { RehearseChange } from './RehearseChange.tsx';
import { RollOutDialog } from './RollOutDialog.tsx';

/** The proof sheet of a change: review, conflicts, approval, rollout, withdrawal. */
export function ChangePage() {
  const id = useParams()['id']!;
  const query = api.useChangeQuery(id);
  const { data: settings } = api.useSettingsQuery();
  const { data: session } = api.useSessionQuery();
  const [withdraw] = api.useWithdrawMutation();
  const [ask] = api.useAskApprovalMutation();
  const [prove, proving] = api.useProveMutation();
  const [keep] = api.useKeepEditMutation();
  const [undo] = api.useUndoEditMutation();
  const [asking, setAsking] = useState(false);
  const mayApprove = useMay('approver', query.data?.fabric);
  const mayDesign = useMay('designer', query.data?.fabric);
  const mayRoll = useMay('operator', query.data?.fabric);
  const dispatch = useAppDispatch();
  // A rule is waived in the open change.
  const openChange = useAppSelector((s) => s.work.openChange);
  if (query.isError)
    return (
      <Page title="Change">
        <Failure detail={problemOf(query.error).detail} onRetry={() => void query.refetch()} />
      </Page>
    );
  const c = query.data;
  if (!c)
    return (
      <Page title="Change">
        <Waiting />
      </Page>
    );
  const said = async (work: Promise<{ error?: unknown }>): Promise<boolean> => {
    const result = await work;
    if (result.error) toast.error(problemOf(result.error).detail);
    return !result.error;
  };
  const me = session?.user?.name ?? '';
  const own = (me === c.author || c.hands.includes(me)) && settings?.secondPerson;
  const seatOf = new Map(c.proof?.switches.map((s) => [s.host, s.seat]));
  const open = !['Live', 'Withdrawn', 'Rolling out'].includes(c.state);
  return (
    <Page
      title={c.title}
      sub={`${c.ticket ? `${c.ticket} · ` : ''}on revision ${c.baseRevision} of ${c.fabric}`}
      crumbs={
        <>
          <Link to="/changes">Changes</Link> › <Link to={`/fabrics/${c.fabric}`}>{c.fabric}</Link>
        </>
      }
      asideLabel="Approval"
      aside={
        <>
          <Cap>Change</Cap>
          <Row>
            <StateMark mood={changeMood[c.state]} size={24} />
            <H3>{c.state}</H3>
          </Row>
          <Facts>
            <dt>By</dt>
            <dd>{c.author}</dd>
            <dt>Reason</dt>
            <dd>{c.reason || 'none given'}</dd>
            <dt>Edits</dt>
            <dd>{c.edits}</dd>
            {c.provenAt && (
              <>
                <dt>Judged</dt>
                <dd title={dated(c.provenAt)}>{ago(c.provenAt)}</dd>
              </>
            )}
            <dt>Second person</dt>
            <dd>{settings?.secondPerson ? 'must approve' : 'not asked for'}</dd>
          </Facts>
          {c.approvals.map((a) => (
            <Note key={a.by} $tone="good">
              Approved by {a.by}, {ago(a.at)}. {a.note}
            </Note>
          ))}
          {c.state === 'Drafting' && c.proof && !c.proof.clean && (
            <Note $tone="bad">The proof has findings; follow their cures, then it can be approved.</Note>
          )}
          {c.state === 'Proven' && own && (
            <Note $tone="wait">
              Proven. Somebody other than {[...new Set([c.author, ...c.hands])].join(' and ')} must approve it.
            </Note>
          )}
          {c.asked !== null && (
            <Note $tone="wait">
              {c.asked.by} asks for a yes, since {ago(c.asked.at)}.
            </Note>
          )}
          {c.state === 'Proven' && !mayApprove && !own && <Note $tone="wait">Waits for an approver.</Note>}
          <AsideFoot style={{ flexDirection: 'column' }}>
            {c.state === 'Stale' && mayDesign && (
              <Button $kind="main" onPress={() => void said(prove(id))} isDisabled={proving.isLoading}>
                Prove again
              </Button>
            )}
            {c.state === 'Proven' && mayDesign && c.asked === null && (
              <Button
                $kind={mayApprove && !own ? 'neutral' : 'main'}
                onPress={() =>
                  void said(ask({ id, version: c.version })).then(
                    (ok) => ok && toast.success('Those who may approve find it under what waits for them'),
                  )
                }
              >
                Ask approval
              </Button>
            )}
            {c.state === 'Proven' && mayApprove && !own && <ApproveForm id={id} version={c.version} />}
            {c.state === 'Approved' && mayRoll && (
              <Button $kind="main" onPress={() => setAsking(true)}>
                Roll out …
              </Button>
            )}
            {c.rollout && <Link to={`/rollouts/${c.rollout}`}>Its rollout</Link>}
            {open && mayDesign && (
              <>
                <Rule />
                <Button
                  $kind="danger"
                  onPress={() =>
                    void said(withdraw({ id, version: c.version })).then((ok) => {
                      if (ok) {
                        dispatch(changeLeft());
                        toast.success(`Withdrawn; ${c.drawn.length} values are back in their pools`);
                      }
                    })
                  }
                >
                  Withdraw, give {c.drawn.length} values back
                </Button>
              </>
            )}
          </AsideFoot>
        </>
      }
    >
      {c.conflicts.map((conflict) => {
        const step = c.steps[conflict.edit];
        return (
          <Note key={conflict.edit} $tone="wait" style={{ marginTop: 12 }}>
            <b>{conflict.sentence}</b> does not carry over:{' '}
            {conflict.findings.map((f) => `${f.message} ${f.cure ?? ''}`).join(' ')}
            {step && mayDesign && (
              <Row style={{ marginTop: 6 }}>
                <Button onPress={() => void said(keep({ id, version: c.version, position: step.position }))}>
                  Keep it as it is
                </Button>
                <Button onPress={() => void said(undo({ id, version: c.version, position: step.position }))}>
                  Undo it
                </Button>
              </Row>
            )}
          </Note>
        );
      })}
      {c.proof ? (
        <ProofReportView proof={c.proof} fabric={c.fabric} isChange mayWaive={mayDesign && openChange === id}>
          {open && (
            <>
              <AskNetwork fabric={c.fabric} change={id} seatOf={seatOf} />
              <RehearseChange change={c} seatOf={seatOf} />
            </>
          )}
        </ProofReportView>
      ) : (
        <Faded style={{ padding: '24px 0' }}>
          {c.state === 'Stale'
            ? `The proof was overtaken: revision ${c.baseRevision} went live, and the edits were carried over onto it. Prove the change again.`
            : 'Not proven yet: the proof follows the first edit.'}
        </Faded>
      )}
      <RollOutDialog change={c} isOpen={asking} onClose={() => setAsking(false)} />
    </Page>
  );
}
