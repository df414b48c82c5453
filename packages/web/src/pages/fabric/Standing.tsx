import type { FabricStateAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { styled } from 'styled-components';
import { toast } from 'sonner';
import { api, asksTogether, problemOf } from '../../app/api.ts';
import { useMay } from '../../app/session.ts';
import { Button, Row } from '../../parts/basics.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { token } from '../../parts/theme.ts';
import { StateMark } from '../../parts/StateMark.tsx';

/** What keeps a fabric from being as it is meant: a rollout that is not finished, or switches that wait for what is live. */
export function Standing({ fabric }: { readonly fabric: FabricStateAnswer }) {
  const [catchUp, { isLoading }] = api.useCatchUpMutation();
  const may = useMay('operator');
  const navigate = useNavigate();
  const [asked, setAsked] = useState<string | null>(null);
  if (fabric.unfinished !== null)
    return (
      <Line>
        <StateMark mood="dewed" size={14} />
        <Link to={`/rollouts/${fabric.unfinished}`}>A rollout is not finished</Link>
        <span>until it is, nothing else of {fabric.name} goes live</span>
      </Line>
    );
  if (fabric.waiting === 0) return fabric.releaseWrites > 0 ? <ReleaseLine fabric={fabric} /> : null;
  const send = async (together: boolean): Promise<void> => {
    const result = await catchUp({ fabric: fabric.name, together });
    if (result.data) void navigate(`/rollouts/${result.data.id}`);
    else if (asksTogether(result)) setAsked(problemOf(result.error).detail);
    else toast.error(problemOf(result.error).detail);
  };
  return (
    <Line>
      <StateMark mood="dewed" size={14} />
      <span>
        {fabric.waiting} {fabric.waiting === 1 ? 'switch has' : 'switches have'} not got revision {fabric.revision}:{' '}
        {fabric.waitingHosts.join(', ')}
        {fabric.waiting > fabric.waitingHosts.length && ' and others'}
      </span>
      {may && (
        <button onClick={() => void send(false)} disabled={isLoading}>
          Send it now
        </button>
      )}
      <Dialog title="Send them together" isOpen={asked !== null} onClose={() => setAsked(null)} width={440}>
        <p>{asked}</p>
        <p>They are loaded at once and confirmed only when all have settled; else all go back.</p>
        <Row>
          <Button $kind="danger" onPress={() => void send(true)} isDisabled={isLoading}>
            Send them together
          </Button>
          <Button onPress={() => setAsked(null)}>Not now</Button>
        </Row>
      </Dialog>
    </Line>
  );
}

/** A newer release writes the same intent with other lines: nothing has drifted, and a change can send them. */
function ReleaseLine({ fabric }: { readonly fabric: FabricStateAnswer }) {
  const [open, { isLoading }] = api.useOpenChangeMutation();
  const [prove] = api.useProveMutation();
  const may = useMay('designer');
  const navigate = useNavigate();
  const propose = async (): Promise<void> => {
    const made = await open({
      fabric: fabric.name,
      title: 'Lines of the new release',
      reason: 'This release writes the same intent with other lines',
      ticket: '',
    });
    if ('error' in made) {
      toast.error(problemOf(made.error).detail);
      return;
    }
    await prove(made.data.id);
    void navigate(`/changes/${made.data.id}`);
  };
  return (
    <Line>
      <StateMark mood="bud" size={14} />
      <span>
        This release would write {fabric.releaseWrites} {fabric.releaseWrites === 1 ? 'switch' : 'switches'} with other
        lines than the one that sent them; they run as meant.
      </span>
      {may && (
        <button onClick={() => void propose()} disabled={isLoading}>
          Propose a change that sends them
        </button>
      )}
    </Line>
  );
}

const Line = styled.p`
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 0 -22px;
  padding: 6px 22px;
  font-size: 13px;
  background: ${token('sheet')};
  border-bottom: 1px solid ${token('rule-soft')};
  span {
    color: ${token('faded')};
  }
  button {
    all: unset;
    cursor: pointer;
    color: ${token('verdigris')};
    text-decoration: underline;
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
