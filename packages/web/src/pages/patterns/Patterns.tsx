import {
  DEFAULT_SETTINGS,
  portsOf,
  SETTING_REASONS,
  type FabricPattern,
  type FabricSettings,
  type Finding,
  type RackPattern,
} from '@anthemion/core';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { toast } from 'sonner';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { serif, token } from '../../app/theme.ts';
import { Button, Cap, Faded, Failure, H2, Mono, Row, Stack, Waiting } from '../../parts/basics.tsx';
import { Choice, errorAt, FormGrid, Leftovers, leftOver, TextInput, Tick } from '../../parts/fields.tsx';
import { SizingFacts } from './SizingFacts.tsx';

const NEW_FABRIC: FabricPattern = {
  name: '',
  description: '',
  spines: { count: 2, model: '' },
  parallel: 1,
  racks: [],
  settings: {},
};
const NEW_RACK: RackPattern = {
  name: '',
  kind: 'single',
  leafModel: '',
  serverPorts: 'p1-p48',
  uplinkPorts: 'p49-p56',
};

/** Parts: fabric patterns, rack patterns and switch models; sizing follows what is typed. */
export function Patterns() {
  const parts = api.usePartsQuery();
  const [params, setParams] = useSearchParams();
  const at = params.get('at') ?? '';
  const go = (to: string): void => setParams({ at: to });
  const may = useMay('designer');
  if (parts.isError)
    return (
      <Page title="Patterns">
        <Failure detail={problemOf(parts.error).detail} onRetry={() => void parts.refetch()} />
      </Page>
    );
  const data = parts.data;
  if (!data)
    return (
      <Page title="Patterns">
        <Waiting />
      </Page>
    );
  const [kind = '', name = ''] = (at || `fabric:${data.fabricPatterns[0]?.name ?? ''}`).split(':');
  const fabric = data.fabricPatterns.find((p) => p.name === name);
  const rack = data.rackPatterns.find((p) => p.name === name);
  const model = data.models.find((m) => m.name === name);
  const item = (k: string, n: string, note: string) => (
    <button key={n} aria-current={kind === k && name === n} onClick={() => go(`${k}:${n}`)}>
      <b>{n}</b>
      <small>{note}</small>
    </button>
  );
  return (
    <Page title="Patterns" sub="reusable make-ups of racks and fabrics, and the switch models they are made of">
      <Two>
        <Index aria-label="Parts">
          <Cap>Fabric patterns</Cap>
          {data.fabricPatterns.map((p) =>
            item('fabric', p.name, `${p.spines.count} spines, ${p.racks.reduce((n, r) => n + r.count, 0)} racks`),
          )}
          {may && <button onClick={() => go('fabric:')}>+ a fabric pattern</button>}
          <Cap>Rack patterns</Cap>
          {data.rackPatterns.map((p) =>
            item('rack', p.name, `${p.kind === 'single' ? 'one leaf' : 'ESI pair'}, ${p.leafModel}`),
          )}
          {may && <button onClick={() => go('rack:')}>+ a rack pattern</button>}
          <Cap>Switch models</Cap>
          {data.models.map((m) => item('model', m.name, m.maker))}
        </Index>
        <div>
          {kind === 'fabric' && (
            <FabricPatternForm key={name} pattern={fabric ?? NEW_FABRIC} onSaved={(n) => go(`fabric:${n}`)} />
          )}
          {kind === 'rack' && (
            <RackPatternForm key={name} pattern={rack ?? NEW_RACK} onSaved={(n) => go(`rack:${n}`)} />
          )}
          {kind === 'model' && model && (
            <Stack>
              <H2>{model.name}</H2>
              <Faded>
                {model.maker} · {model.dialect} dialect · largest MTU {model.maxMtu}
              </Faded>
              <Faceplate aria-label={`Ports of ${model.name}`}>
                {[...portsOf(model)].map(([p, speed]) => (
                  <li key={p} className={speed >= 100 ? 'fast' : ''} title={`${p}, ${speed}G`}>
                    {p.replace('p', '')}
                  </li>
                ))}
              </Faceplate>
              {model.blocks.map((b) => (
                <span key={b.ports}>
                  <Mono>{b.ports}</Mono> {b.speed}G each
                </span>
              ))}
            </Stack>
          )}
        </div>
      </Two>
    </Page>
  );
}

const numberOr = (text: string): number => (/^\d+$/.test(text) ? Number(text) : NaN);

function FabricPatternForm({
  pattern,
  onSaved,
}: {
  readonly pattern: FabricPattern;
  readonly onSaved: (name: string) => void;
}) {
  const { data: parts } = api.usePartsQuery();
  const [form, setForm] = useState<FabricPattern>(pattern);
  const [more, setMore] = useState(false);
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [put, { isLoading }] = api.usePutFabricPatternMutation();
  const may = useMay('designer');
  if (!parts) return null;
  const count = (name: string): number => form.racks.find((r) => r.pattern === name)?.count ?? 0;
  const setCount = (name: string, text: string): void =>
    setForm({
      ...form,
      racks: [
        ...form.racks.filter((r) => r.pattern !== name),
        { pattern: name, count: text === '' ? 0 : numberOr(text) },
      ].filter((r) => r.count !== 0 || Number.isNaN(r.count)),
    });
  const setting = <K extends keyof FabricSettings>(k: K, v: FabricSettings[K] | undefined): void => {
    const { [k]: _, ...rest } = form.settings;
    setForm({ ...form, settings: v === undefined || v === DEFAULT_SETTINGS[k] ? rest : { ...rest, [k]: v } });
  };
  const now = <K extends keyof FabricSettings>(k: K): FabricSettings[K] =>
    (form.settings[k] ?? DEFAULT_SETTINGS[k]) as FabricSettings[K];
  const changed = Object.keys(form.settings).length;
  const save = async (): Promise<void> => {
    const result = await put(form);
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      if (p.findings.length === 0) toast.error(p.detail);
    } else {
      setFindings([]);
      toast.success(`Pattern ${form.name} is kept`);
      onSaved(form.name);
    }
  };
  const sized =
    form.racks.every((r) => Number.isInteger(r.count)) &&
    Number.isInteger(form.spines.count) &&
    form.spines.model !== '';
  return (
    <Stack $gap={14}>
      <H2>{pattern.name || 'A new fabric pattern'}</H2>
      {sized && <SizingFacts pattern={form} parts={parts} />}
      <FormGrid>
        {pattern.name === '' && (
          <TextInput
            label="Name"
            value={form.name}
            onChange={(name) => setForm({ ...form, name })}
            placeholder="four-by-ten"
            error={errorAt(findings, 'name')}
            isRequired
          />
        )}
        <TextInput
          label="Description"
          value={form.description}
          onChange={(description) => setForm({ ...form, description })}
          error={errorAt(findings, 'description')}
        />
        <TextInput
          label="Spines"
          value={Number.isNaN(form.spines.count) ? '' : String(form.spines.count)}
          onChange={(t) => setForm({ ...form, spines: { ...form.spines, count: numberOr(t) } })}
          error={errorAt(findings, 'count', 'spines/count')}
        />
        <Choice
          label="Spine model"
          value={form.spines.model}
          onChange={(model) => setForm({ ...form, spines: { ...form.spines, model } })}
          options={parts.models.map((m) => ({ id: m.name, name: m.name, note: m.maker }))}
          error={errorAt(findings, 'spines/model')}
        />
        <TextInput
          label="Links per leaf and spine"
          value={Number.isNaN(form.parallel) ? '' : String(form.parallel)}
          onChange={(t) => setForm({ ...form, parallel: numberOr(t) })}
          error={errorAt(findings, 'parallel')}
        />
      </FormGrid>
      <Cap>Racks</Cap>
      <FormGrid>
        {parts.rackPatterns.map((r) => (
          <TextInput
            key={r.name}
            label={`${r.name} (${r.kind === 'single' ? 'one leaf' : 'ESI pair'})`}
            value={count(r.name) === 0 ? '' : String(count(r.name))}
            onChange={(t) => setCount(r.name, t)}
            placeholder="0"
          />
        ))}
      </FormGrid>
      {!more ? (
        <div>
          <Button onPress={() => setMore(true)}>More settings{changed > 0 ? ` (${changed} changed)` : ''}</Button>
        </div>
      ) : (
        <>
          <Cap>Settings</Cap>
          <FormGrid>
            <Choice
              label="Underlay"
              value={now('underlay')}
              onChange={(v) => setting('underlay', v as FabricSettings['underlay'])}
              options={[
                { id: 'unnumbered', name: 'unnumbered' },
                { id: 'numbered', name: 'numbered, /31' },
              ]}
              hint={SETTING_REASONS.underlay}
            />
            <Choice
              label="AS numbers"
              value={now('asnScheme')}
              onChange={(v) => setting('asnScheme', v as FabricSettings['asnScheme'])}
              options={[
                { id: 'per-leaf', name: 'one per leaf' },
                { id: 'per-rack', name: 'one per rack' },
              ]}
              hint={SETTING_REASONS.asnScheme}
            />
            <Choice
              label="VNI of a network"
              value={now('vniRule')}
              onChange={(v) => setting('vniRule', v as FabricSettings['vniRule'])}
              options={[
                { id: 'drawn', name: 'drawn' },
                { id: 'base', name: 'base + VLAN' },
                { id: 'equal', name: 'equal to VLAN' },
              ]}
              hint={SETTING_REASONS.vniRule}
            />
            {(['linkMtu', 'tenantMtu', 'fabricNumber'] as const).map((k) => (
              <TextInput
                key={k}
                label={{ linkMtu: 'Link MTU, bytes', tenantMtu: 'Tenant MTU, bytes', fabricNumber: 'Fabric number' }[k]}
                value={form.settings[k] === undefined ? '' : String(form.settings[k])}
                placeholder={String(DEFAULT_SETTINGS[k])}
                onChange={(t) => setting(k, t === '' ? undefined : numberOr(t))}
                hint={SETTING_REASONS[k]}
                error={errorAt(findings, k)}
              />
            ))}
            <Tick label="BFD" value={now('bfd')} onChange={(v) => setting('bfd', v)} hint={SETTING_REASONS.bfd} />
          </FormGrid>
        </>
      )}
      <Leftovers
        findings={leftOver(
          findings,
          'name',
          'description',
          'count',
          'parallel',
          'spines/model',
          'linkMtu',
          'tenantMtu',
          'fabricNumber',
        )}
      />
      {may && (
        <Row>
          <Button $kind="main" onPress={() => void save()} isDisabled={isLoading}>
            Keep pattern
          </Button>
        </Row>
      )}
    </Stack>
  );
}

function RackPatternForm({
  pattern,
  onSaved,
}: {
  readonly pattern: RackPattern;
  readonly onSaved: (name: string) => void;
}) {
  const { data: parts } = api.usePartsQuery();
  const [form, setForm] = useState<RackPattern>(pattern);
  const [findings, setFindings] = useState<readonly Finding[]>([]);
  const [put, { isLoading }] = api.usePutRackPatternMutation();
  const may = useMay('designer');
  if (!parts) return null;
  const save = async (): Promise<void> => {
    const result = await put(form);
    if ('error' in result) {
      const p = problemOf(result.error);
      setFindings(p.findings);
      if (p.findings.length === 0) toast.error(p.detail);
    } else {
      setFindings([]);
      toast.success(`Rack pattern ${form.name} is kept`);
      onSaved(form.name);
    }
  };
  return (
    <Stack $gap={14}>
      <H2>{pattern.name || 'A new rack pattern'}</H2>
      <FormGrid>
        {pattern.name === '' && (
          <TextInput
            label="Name"
            value={form.name}
            onChange={(name) => setForm({ ...form, name })}
            placeholder="single-48"
            error={errorAt(findings, 'name')}
            isRequired
          />
        )}
        <Choice
          label="Kind"
          value={form.kind}
          onChange={(k) => setForm({ ...form, kind: k as RackPattern['kind'] })}
          options={[
            { id: 'single', name: 'one leaf' },
            { id: 'esi-pair', name: 'pair of leaves, ESI multihomed' },
          ]}
          error={errorAt(findings, 'kind')}
        />
        <Choice
          label="Leaf model"
          value={form.leafModel}
          onChange={(leafModel) => setForm({ ...form, leafModel })}
          options={parts.models.map((m) => ({ id: m.name, name: m.name, note: m.maker }))}
          error={errorAt(findings, 'leafModel')}
        />
        <TextInput
          label="Server ports"
          value={form.serverPorts}
          onChange={(serverPorts) => setForm({ ...form, serverPorts })}
          error={errorAt(findings, 'serverPorts')}
          code
        />
        <TextInput
          label="Uplinks, in the order of the spines"
          value={form.uplinkPorts}
          onChange={(uplinkPorts) => setForm({ ...form, uplinkPorts })}
          error={errorAt(findings, 'uplinkPorts')}
          code
        />
      </FormGrid>
      <Leftovers findings={leftOver(findings, 'name', 'kind', 'leafModel', 'serverPorts', 'uplinkPorts')} />
      {may && (
        <Row>
          <Button $kind="main" onPress={() => void save()} isDisabled={isLoading}>
            Keep rack pattern
          </Button>
        </Row>
      )}
    </Stack>
  );
}

const Two = styled.div`
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  gap: 30px;
  padding: 12px 0;
`;
const Index = styled.nav`
  display: flex;
  flex-direction: column;
  gap: 2px;
  > div {
    margin: 12px 0 3px;
  }
  > div:first-child {
    margin-top: 0;
  }
  button {
    all: unset;
    cursor: pointer;
    padding: 5px 10px;
    border-radius: 4px;
    display: flex;
    flex-direction: column;
    font-size: 13.5px;
  }
  b {
    font: 600 14.5px ${serif};
  }
  small {
    color: ${token('faded')};
  }
  button:hover {
    background: ${token('sheet')};
  }
  button[aria-current='true'] {
    background: ${token('verdigris-wash')};
  }
  button[aria-current='true'] small {
    color: ${token('ink')};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
`;
const Faceplate = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fill, 30px);
  gap: 4px;
  max-width: 580px;
  background: ${token('sheet')};
  border: 1px solid ${token('rule')};
  border-radius: 5px;
  padding: 12px;
  li {
    border: 1px solid ${token('link')};
    border-radius: 3px;
    font-size: 11px;
    text-align: center;
    padding: 2px 0;
  }
  li.fast {
    border-color: ${token('verdigris')};
    background: ${token('verdigris-wash')};
  }
`;
