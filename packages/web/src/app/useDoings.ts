import { holds, mayCall, type Role } from '@anthemion/contract';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, problemOf } from './api.ts';
import { changeLeft, editsPended, sheetChosen, useAppDispatch, useAppSelector } from './store.ts';
import { watchApi } from './watchApi.ts';

/** Something that can be done from anywhere. */
interface Doing {
  readonly words: string;
  readonly act: () => void;
}

/** What whoever is signed in may do from anywhere, the open change first, then the fabric they look at. */
export function useDoings({
  fabrics,
  here,
  onKeys,
  onOut,
}: {
  readonly fabrics: readonly string[];
  /** The fabric that is looked at. */
  readonly here: string | undefined;
  readonly onKeys: () => void;
  readonly onOut: () => void;
}): Doing[] {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const user = api.useSessionQuery().data?.user;
  const open = useAppSelector((s) => s.work.openChange);
  const { currentData: change } = api.useChangeQuery(open ?? '', { skip: open === null });
  const [prove] = api.useProveMutation();
  const [ask] = api.useAskApprovalMutation();
  const [undo] = api.useUndoEditMutation();
  const [read] = watchApi.useReadFabricMutation();
  const [signOut] = api.useSignOutMutation();
  if (!user) return [];

  const may = (role: Role, fabric: string | null): boolean => holds(user, role, fabric);
  const go = (words: string, to: string): Doing => ({ words, act: () => void navigate(to) });
  const call = (words: string, work: () => Promise<{ error?: unknown }>, done: string): Doing => ({
    words,
    act: () =>
      void work().then(({ error }) => {
        if (error !== undefined) toast.error(problemOf(error).detail);
        else toast.success(done);
      }),
  });
  const out: Doing[] = [];
  if (open !== null) {
    out.push(go('Open the proof of the open change', `/changes/${open}`));
    const last = change?.steps.at(-1);
    const isOpen = change && !['Live', 'Withdrawn', 'Rolling out'].includes(change.state);
    if (isOpen && may('designer', change.fabric)) {
      const { id, version } = change;
      if (change.state === 'Stale') out.push(call('Prove the open change again', () => prove(id), 'It is proved anew'));
      if (change.state === 'Proven' && change.asked === null)
        out.push(
          call(
            'Ask approval of the open change',
            () => ask({ id, version }),
            'Those who may approve find it under what waits for them',
          ),
        );
      if (last)
        out.push(
          call('Undo the last edit', () => undo({ id, version, position: last.position }), `Undone: ${last.sentence}`),
        );
    }
    out.push({ words: 'Leave the open change', act: () => void dispatch(changeLeft()) });
  }
  if (here !== undefined && may('designer', here)) {
    const base = `/fabrics/${here}`;
    out.push(
      go(`Add a rack to ${here}`, `${base}?new=rack`),
      go(`Add a VRF to ${here}`, `${base}/tenants?at=new-vrf`),
      go(`Add a network to ${here}`, `${base}/tenants?at=new-network`),
      go(`Connect a server to ${here}`, `${base}/ports?new=1`),
      go(`Join ${here} to something outside`, `${base}/outside?at=new-link`),
      go(`Speak BGP outside of ${here}`, `${base}/outside?at=new-neighbour`),
      go(`Add a route map to ${here}`, `${base}/routing/policies?at=new-map`),
      go(`Add a list of prefixes, communities or paths to ${here}`, `${base}/routing/policies?at=new-list`),
      go(`Let servers of ${here} speak BGP`, `${base}/routing/servers?at=new-speakers`),
      go(`Add a static route to ${here}`, `${base}/routing/routes?at=new-route`),
      go(`Drain a switch of ${here}, or bring it back`, `${base}/seats`),
      go(`Let a VRF of ${here} have routes of another`, `${base}/routing/between?at=new-leak`),
    );
  }
  for (const name of fabrics) {
    out.push(
      call(
        `Read every switch of ${name} now`,
        () => read({ name, change: null }),
        `The switches of ${name} were asked`,
      ),
      go(`Look up who has a prefix in ${name}`, `/fabrics/${name}/routing/prefix`),
    );
    if (may('designer', name))
      out.push({
        words: `Open a change of ${name}`,
        act: () => void dispatch(editsPended({ fabric: name, edits: [] })),
      });
  }
  if (may('designer', null))
    out.push(go('Make a fabric from a pattern', '/fabrics?new=1'), go('Make a pool', '/pools?new=1'));
  if (may('operator', null)) out.push(go('Import switches from CSV', '/switches?import=1'));
  if (mayCall(user, 'admin', null)) out.push(go('Make an account', '/access/accounts?new=1'));
  out.push(
    go('Make a token for a script', '/you/tokens?new=1'),
    go('Set a new password', '/you/password'),
    { words: 'Use the light sheet', act: () => void dispatch(sheetChosen('limestone')) },
    { words: 'Use the dark sheet', act: () => void dispatch(sheetChosen('basalt')) },
    { words: 'Show the keys', act: onKeys },
    {
      words: 'Sign out',
      act: () =>
        void signOut().then(() => {
          onOut();
          dispatch(api.util.resetApiState());
        }),
    },
  );
  return out;
}
