import { neighbourKey, policyKey, POLICY_WORDS, routeKey, speakersKey } from '@anthemion/core';
import { Command } from 'cmdk';
import { useEffect, useRef, type KeyboardEvent as ReactKeyboardEvent } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { createGlobalStyle } from 'styled-components';
import { api } from './api.ts';
import { pagesOfAccess, SECTIONS } from './sections.ts';
import { changeOpened, useAppDispatch } from './store.ts';
import { useDoings } from './useDoings.ts';
import { useChangeOf } from './useEdits.ts';
import { fabricOfPath } from './usePresence.ts';
import { watchApi } from './watchApi.ts';
import { sans, token } from '../parts/theme.ts';
import { layoutOf } from './layoutOf.ts';

const FABRIC_PAGES = [
  '',
  'values',
  'seats',
  'cables',
  'tenants',
  'ports',
  'outside',
  'routing',
  'text',
  'proof',
  'history',
] as const;

/** Ctrl-K: every section, fabric, seat, network, pool, switch, change and rollout, and what can be done from anywhere. */
export function CommandPalette({
  isOpen,
  onClose,
  onKeys,
  onOut,
}: {
  readonly isOpen: boolean;
  readonly onClose: () => void;
  readonly onKeys: () => void;
  readonly onOut: () => void;
}) {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const user = api.useSessionQuery().data?.user ?? null;
  const skip = { skip: !isOpen };
  const { data: fabrics = [], isLoading: fabricsWait } = api.useFabricsQuery(undefined, skip);
  const { data: changes = [], isLoading: changesWait } = api.useChangesQuery(undefined, skip);
  const { data: pools = [], isLoading: poolsWait } = api.usePoolsQuery(undefined, skip);
  const { data: switches = [], isLoading: switchesWait } = api.useSwitchesQuery(undefined, skip);
  const { data: rollouts = [], isLoading: rolloutsWait } = api.useRolloutsQuery(undefined, skip);
  const { data: day, isLoading: dayWaits } = watchApi.useDayQuery(undefined, skip);
  const first = fabricOfPath(useLocation().pathname) ?? fabrics[0]?.name;
  // As the open change would have it, as its pages show it.
  const change = useChangeOf(first ?? '');
  const { data: fabric, isLoading: fabricWaits } = api.useFabricQuery(
    { name: first ?? '', change },
    { skip: !isOpen || first === undefined },
  );
  // Of other fabrics, the seats that a switch sits in.
  const elsewhere = switches
    .slice(0, 400)
    .map(({ serial, host, seat: held }) => {
      const [of = '', seat = ''] = held?.split('/') ?? [];
      return { serial, host, of, seat };
    })
    .filter(({ of }) => of !== '' && of !== fabric?.name);
  const waits =
    isOpen && (fabricsWait || changesWait || poolsWait || switchesWait || rolloutsWait || dayWaits || fabricWaits);
  const enter = useEnterWhenThere(waits);
  const doings = useDoings({ fabrics: fabrics.map((f) => f.name), here: first, onKeys, onOut });
  const go = (to: string) => () => {
    onClose();
    void navigate(to);
  };
  const run = (work: () => void) => () => {
    onClose();
    work();
  };
  return (
    <>
      <PaletteStyle />
      <Command.Dialog
        open={isOpen}
        onOpenChange={(o) => !o && onClose()}
        label="Find or do anything"
        overlayClassName="palette-overlay"
        contentClassName="palette"
      >
        <Command.Input placeholder="Find or do anything …" ref={enter.field} onKeyDown={enter.onKeyDown} />
        <Command.List>
          <Command.Empty>{waits ? 'Looking …' : 'Nothing by that name.'}</Command.Empty>
          <Command.Group heading="Do">
            {doings.map(({ words, act }) => (
              <Command.Item key={words} onSelect={run(act)}>
                {words}
              </Command.Item>
            ))}
          </Command.Group>
          {(day?.causes.length ?? 0) > 0 && (
            <Command.Group heading="Wrong now">
              {day!.causes.slice(0, 40).map((c) => (
                <Command.Item
                  key={`${c.fabric} ${c.key}`}
                  value={`${c.title} ${c.fabric}`}
                  onSelect={go(`/watch?fabric=${c.fabric}`)}
                >
                  {c.title} <small>{c.fabric}</small>
                </Command.Item>
              ))}
            </Command.Group>
          )}
          <Command.Group heading="Go to">
            {[...SECTIONS, ...pagesOfAccess(user)].map((s) => (
              <Command.Item key={s.to} onSelect={go(s.to)}>
                {s.name}
              </Command.Item>
            ))}
            {fabrics.flatMap((f) =>
              FABRIC_PAGES.map((p) => (
                <Command.Item key={`${f.name}/${p}`} onSelect={go(`/fabrics/${f.name}/${p}`)}>
                  {f.name} › {p === '' ? 'shape' : p}
                </Command.Item>
              )),
            )}
          </Command.Group>
          <Command.Group heading="Changes">
            {changes.slice(0, 60).map((c) => (
              <Command.Item
                key={c.id}
                value={`${c.title} ${c.ticket} ${c.id}`}
                onSelect={run(() => (dispatch(changeOpened(c.id)), void navigate(`/changes/${c.id}`)))}
              >
                {c.title} <small>{c.state}</small>
              </Command.Item>
            ))}
          </Command.Group>
          <Command.Group heading="Objects">
            {fabric &&
              layoutOf(fabric.intent)
                .seats.slice(0, 400)
                .map((s) => (
                  <Command.Item
                    key={s.id}
                    value={`${s.host} ${s.id}`}
                    onSelect={go(`/fabrics/${fabric.name}/text/${s.id}`)}
                  >
                    {s.host} <small>seat {s.id}</small>
                  </Command.Item>
                ))}
            {elsewhere.map(({ serial, host, of, seat }) => (
              <Command.Item
                key={`seat of ${serial}`}
                value={`${host} ${of} ${seat}`}
                onSelect={go(`/fabrics/${of}/text/${seat}`)}
              >
                {host}{' '}
                <small>
                  seat {seat} of {of}
                </small>
              </Command.Item>
            ))}
            {fabric?.intent.networks.map((n) => (
              <Command.Item
                key={n.name}
                value={`network ${n.name} vlan ${n.vlan}`}
                onSelect={go(`/fabrics/${fabric.name}/tenants?at=network:${n.name}`)}
              >
                {n.name} <small>VLAN {n.vlan}</small>
              </Command.Item>
            ))}
            {fabric?.intent.neighbours.map((n) => (
              <Command.Item
                key={neighbourKey(n)}
                value={`neighbour ${n.far} as ${n.asn} ${n.vrf}`}
                onSelect={go(`/fabrics/${fabric.name}/outside?at=neighbour:${neighbourKey(n)}`)}
              >
                {n.far} <small>AS {n.asn}, outside</small>
              </Command.Item>
            ))}
            {fabric?.intent.speakers.map((s) => (
              <Command.Item
                key={speakersKey(s)}
                value={`BGP servers ${s.network} ${s.from} as ${s.asn}`}
                onSelect={go(
                  `/fabrics/${fabric.name}/routing/servers?at=${encodeURIComponent(`speakers:${speakersKey(s)}`)}`,
                )}
              >
                {s.network} {s.from} <small>AS {s.asn}, BGP servers</small>
              </Command.Item>
            ))}
            {fabric?.intent.policies.map((p) => (
              <Command.Item
                key={policyKey(p)}
                value={`${POLICY_WORDS[p.is]} ${p.name}`}
                onSelect={go(`/fabrics/${fabric.name}/routing/policies?at=policy:${policyKey(p)}`)}
              >
                {p.name} <small>{POLICY_WORDS[p.is]}</small>
              </Command.Item>
            ))}
            {fabric?.intent.routes.map((r) => (
              <Command.Item
                key={routeKey(r)}
                value={`static route ${r.prefix} ${r.via ?? ''} ${r.vrf}`}
                onSelect={go(`/fabrics/${fabric.name}/routing/routes?at=${encodeURIComponent(`route:${routeKey(r)}`)}`)}
              >
                {r.prefix} <small>static route in {r.vrf}</small>
              </Command.Item>
            ))}
            {pools.map((p) => (
              <Command.Item key={p.name} value={`pool ${p.name}`} onSelect={go(`/pools/${p.name}`)}>
                {p.name} <small>pool</small>
              </Command.Item>
            ))}
            {switches.slice(0, 400).map((s) => (
              <Command.Item key={s.serial} value={`${s.serial} ${s.host ?? ''}`} onSelect={go(`/switches/${s.serial}`)}>
                {s.serial} <small>{s.host ?? 'unseated'}</small>
              </Command.Item>
            ))}
            {rollouts.slice(0, 40).map((r) => (
              <Command.Item key={r.id} value={`rollout ${r.id} ${r.title}`} onSelect={go(`/rollouts/${r.id}`)}>
                Rollout of {r.title} <small>{r.state}</small>
              </Command.Item>
            ))}
          </Command.Group>
        </Command.List>
      </Command.Dialog>
    </>
  );
}
/**
 * Names are fetched as the palette opens, and the best of a part of them need not be the best of all. So Enter counts once
 * all are there, unless something else is typed before; and what was chosen among a part is chosen anew.
 */
function useEnterWhenThere(waits: boolean) {
  const field = useRef<HTMLInputElement>(null);
  const pressed = useRef(false);
  useEffect(() => {
    if (waits) return;
    const enters = pressed.current;
    pressed.current = false;
    const press = (key: string): void =>
      void field.current?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
    // The list is sorted as it is drawn; what is chosen shows one drawing later.
    let frame = requestAnimationFrame(() => {
      if (field.current?.value) press('Home');
      if (enters) frame = requestAnimationFrame(() => press('Enter'));
    });
    return () => cancelAnimationFrame(frame);
  }, [waits]);
  const onKeyDown = (e: ReactKeyboardEvent): void => {
    pressed.current = waits && e.key === 'Enter' && !e.nativeEvent.isComposing;
    if (pressed.current) e.preventDefault();
  };
  return { field, onKeyDown };
}

const PaletteStyle = createGlobalStyle`
  .palette-overlay { position: fixed; inset: 0; background: ${token('shade')}; z-index: 20; }
  .palette { position: fixed; top: 12vh; left: 50%; transform: translateX(-50%); width: min(580px, calc(100vw - 32px)); z-index: 21; background: ${token('sheet')}; border: 1px solid ${token('rule')}; border-radius: 6px; box-shadow: 0 18px 60px ${token('shade')}; overflow: hidden; }
  .palette input { width: 100%; border: 0; border-bottom: 1px solid ${token('rule')}; background: none; padding: 13px 16px; font-size: 15px; }
  .palette [cmdk-list] { max-height: 420px; overflow: auto; padding: 6px; }
  .palette [cmdk-group-heading] { font: 600 11px ${sans}; letter-spacing: .09em; text-transform: uppercase; color: ${token('faded')}; padding: 8px 10px 4px; }
  .palette [cmdk-item] { padding: 6px 10px; border-radius: 3px; cursor: pointer; font-size: 13.5px; display: flex; justify-content: space-between; }
  .palette [cmdk-item][data-selected='true'] { background: ${token('verdigris-wash')}; }
  .palette [cmdk-item] small { color: ${token('faded')}; }
  .palette [cmdk-empty] { padding: 14px; color: ${token('faded')}; }
`;
