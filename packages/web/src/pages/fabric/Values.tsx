import { demandsOf, kindOfRole, SETTING_REASONS, type FabricSettings, type PoolRole } from '@anthemion/core';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Copyable, Faded, Row, Stack } from '../../parts/basics.tsx';
import { DataTable, type TableColumn } from '../../parts/DataTable.tsx';
import { Choice, errorAt, TextInput, Tick } from '../../parts/fields.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { fabricCrumbs, fabricSub, FabricTabs, fabricTitle, useFabricView } from './FabricFrame.tsx';
import { ROLE_TITLES } from './poolRoles.ts';
import type { Finding } from '@anthemion/core';
import { layoutOf } from '../../app/layoutOf.ts';

interface ValueRow {
  readonly key: string;
  readonly what: string;
  readonly value: string;
  readonly pool: string;
  readonly how: string;
}

const KEY_WORDS: Readonly<Record<string, string>> = {
  asn: 'AS number',
  loopback: 'loopback',
  vtep: 'VTEP',
  link: 'link',
  vni: 'VNI',
  subnet: 'subnet',
};

/** Every value the fabric draws: what, from which pool, whether this change drew it; and where they are drawn from. */
export function Values() {
  const { fabric, change } = useFabricView();
  const { data: pools = [] } = api.usePoolsQuery();
  const makeEdits = useEdits(fabric.name);
  const may = useMay('designer');
  const { intent, values, ledger } = fabric;
  const rows = useMemo(() => {
    const entries = new Map(ledger.map((e) => [e.key, e]));
    return demandsOf(intent, layoutOf(intent)).map((d): ValueRow => {
      const [owner = '', kind = ''] = d.key.split('/');
      const entry = entries.get(d.key);
      return {
        key: d.key,
        what: `${owner.replace(':', ' ')} ${KEY_WORDS[kind] ?? kind}`,
        value: values[d.key] ?? '',
        pool: entry?.pool ?? d.pool,
        how:
          values[d.key] === undefined
            ? 'waits'
            : entry?.change
              ? 'drawn by this change'
              : d.wanted !== undefined
                ? 'chosen'
                : 'drawn',
      };
    });
  }, [intent, values, ledger]);
  const columns: TableColumn<ValueRow>[] = [
    { id: 'what', title: 'For', text: (r) => r.what, width: '36%' },
    {
      id: 'value',
      title: 'Value',
      text: (r) => r.value,
      cell: (r) => (r.value ? <Copyable text={r.value} /> : <Faded>none yet</Faded>),
      width: '26%',
    },
    {
      id: 'pool',
      title: 'Pool',
      text: (r) => r.pool,
      cell: (r) => (r.pool ? <Link to={`/pools/${r.pool}`}>{r.pool}</Link> : <Faded>from none</Faded>),
    },
    {
      id: 'how',
      title: 'State',
      text: (r) => r.how,
      cell: (r) => (
        <Row $gap={6}>
          <StateMark mood={r.how === 'waits' ? 'bud' : r.how.startsWith('drawn by') ? 'dewed' : 'bloom'} size={12} />{' '}
          {r.how}
        </Row>
      ),
    },
  ];
  return (
    <Page
      title={fabricTitle(fabric)}
      sub={fabricSub(fabric, change)}
      crumbs={fabricCrumbs(fabric.name)}
      tabs={<FabricTabs />}
      flush
      asideLabel="Pools and settings"
      aside={
        <>
          <Cap>Drawn from</Cap>
          {(Object.keys(ROLE_TITLES) as PoolRole[]).map((role) => (
            <Choice
              key={role}
              label={ROLE_TITLES[role].title}
              value={intent.pools[role]}
              onChange={(name) =>
                may && name !== intent.pools[role] && void makeEdits([{ kind: 'choosePools', pools: { [role]: name } }])
              }
              options={pools
                .filter((p) => p.kind === kindOfRole(role))
                .map((p) => ({ id: p.name, name: p.name, note: `${p.size - p.held} of ${p.size} free` }))}
              placeholder="None chosen"
            />
          ))}
          {may && intent.pattern !== '' && (
            <SettingsForm
              settings={intent.settings}
              onSave={(settings) => makeEdits([{ kind: 'changeSettings', settings }], true)}
            />
          )}
        </>
      }
    >
      <DataTable
        label="Values"
        rows={rows}
        columns={columns}
        rowKey={(r) => r.key}
        fileName={`${fabric.name}-values`}
        empty={<Faded style={{ padding: 20 }}>Lay the fabric out under Shape; its values are drawn at once.</Faded>}
      />
    </Page>
  );
}

/** The settings of the fabric; those that differ from the default are counted. */
function SettingsForm({
  settings,
  onSave,
}: {
  readonly settings: FabricSettings;
  readonly onSave: (s: Partial<FabricSettings>) => Promise<{ ok: boolean; findings?: readonly Finding[] }>;
}) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState<Partial<Record<keyof FabricSettings, string | boolean>>>({});
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const now = (k: keyof FabricSettings): string => String(typed[k] ?? settings[k]);
  const number = (k: 'linkMtu' | 'tenantMtu' | 'vniBase' | 'fabricNumber' | 'keepalive' | 'hold', label: string) => (
    <TextInput
      label={label}
      value={now(k)}
      onChange={(v) => setTyped({ ...typed, [k]: v })}
      hint={SETTING_REASONS[k]}
      error={errorAt(findings, k)}
      code
    />
  );
  const save = async (): Promise<void> => {
    const changed = Object.fromEntries(
      Object.entries(typed)
        .filter(([k, v]) => String(settings[k as keyof FabricSettings]) !== String(v))
        .map(([k, v]) => [
          k,
          typeof settings[k as keyof FabricSettings] === 'number' && /^\d+$/.test(String(v)) ? Number(v) : v,
        ]),
    );
    if (Object.keys(changed).length === 0) return;
    const made = await onSave(changed as Partial<FabricSettings>);
    setFindings(made.ok ? [] : (made.findings ?? []));
    if (made.ok) setTyped({});
  };
  if (!open)
    return (
      <div>
        <Button onPress={() => setOpen(true)}>More settings</Button>
      </div>
    );
  return (
    <Stack $gap={12}>
      <Cap>Settings</Cap>
      <Choice
        label="AS numbers"
        value={now('asnScheme')}
        onChange={(v) => setTyped({ ...typed, asnScheme: v })}
        options={[
          { id: 'per-leaf', name: 'one per leaf' },
          { id: 'per-rack', name: 'one per rack', note: 'own AS allowed in on pairs' },
        ]}
        hint={SETTING_REASONS.asnScheme}
      />
      <Choice
        label="Underlay"
        value={now('underlay')}
        onChange={(v) => setTyped({ ...typed, underlay: v })}
        options={[
          { id: 'unnumbered', name: 'unnumbered' },
          { id: 'numbered', name: 'numbered, /31 a link' },
        ]}
        hint={SETTING_REASONS.underlay}
      />
      <Choice
        label="VNI of a network"
        value={now('vniRule')}
        onChange={(v) => setTyped({ ...typed, vniRule: v })}
        options={[
          { id: 'drawn', name: 'drawn from the pool' },
          { id: 'base', name: 'base + VLAN' },
          { id: 'equal', name: 'equal to the VLAN' },
        ]}
        hint={SETTING_REASONS.vniRule}
      />
      {number('linkMtu', 'Link MTU, bytes')}
      {number('tenantMtu', 'Default tenant MTU, bytes')}
      {number('vniBase', 'VNI base')}
      {number('fabricNumber', 'Fabric number')}
      {number('keepalive', 'Keepalive, s')}
      {number('hold', 'Hold time, s')}
      <Tick
        label="BFD"
        value={now('bfd') === 'true'}
        onChange={(v) => setTyped({ ...typed, bfd: v })}
        hint={SETTING_REASONS.bfd}
      />
      <Button $kind="main" onPress={() => void save()}>
        Set
      </Button>
    </Stack>
  );
}
