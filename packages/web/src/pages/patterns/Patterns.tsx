import { shapeOf, type FabricPattern, type RackPattern, type SwitchModel } from '@anthemion/core';
import { useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { Page } from '../../app/Page.tsx';
import { useMay } from '../../app/session.ts';
import { serif, token } from '../../parts/theme.ts';
import { Cap, Faded, Failure, Waiting } from '../../parts/basics.tsx';
import { FabricPatternForm } from './FabricPatternForm.tsx';
import { ModelForm } from './ModelForm.tsx';
import { RackPatternForm } from './RackPatternForm.tsx';

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

const NEW_MODEL: SwitchModel = { name: '', maker: '', dialect: 'linux', blocks: [], maxMtu: 9216 };

/** What a pattern is, in a few words. */
function patternNote(p: FabricPattern): string {
  const count = p.racks.reduce((n, r) => n + r.count, 0);
  const racks = `${count} ${count === 1 ? 'rack' : 'racks'}`;
  switch (shapeOf(p)) {
    case 'three-stages':
      return `${p.spines.count} spines, ${racks}`;
    case 'five-stages':
      return `${p.pods} pods of ${p.spines.count} spines and ${racks}`;
    case 'collapsed':
      return `collapsed, ${racks}`;
    case 'switched':
      return `switched, ${p.spines.count} above ${racks}`;
  }
}

/** Parts: fabric patterns, rack patterns and switch models; sizing follows what is typed. */
export function Patterns() {
  const parts = api.usePartsQuery();
  const [params, setParams] = useSearchParams();
  const at = params.get('at') ?? '';
  const go = (to: string): void => setParams({ at: to });
  const gone = (): void => setParams({});
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
  const isGone = name !== '' && ({ fabric, rack, model } as Record<string, unknown>)[kind] === undefined;
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
          {data.fabricPatterns.map((p) => item('fabric', p.name, patternNote(p)))}
          {may && <button onClick={() => go('fabric:')}>+ a fabric pattern</button>}
          <Cap>Rack patterns</Cap>
          {data.rackPatterns.map((p) =>
            item('rack', p.name, `${p.kind === 'single' ? 'one leaf' : 'ESI pair'}, ${p.leafModel}`),
          )}
          {may && <button onClick={() => go('rack:')}>+ a rack pattern</button>}
          <Cap>Switch models</Cap>
          {data.models.map((m) => item('model', m.name, m.maker))}
          {may && <button onClick={() => go('model:')}>+ a switch model</button>}
        </Index>
        <div>
          {isGone && <Faded>There is no {name} here (any more).</Faded>}
          {!isGone && kind === 'fabric' && (
            <FabricPatternForm
              key={name}
              parts={data}
              pattern={fabric ?? NEW_FABRIC}
              onSaved={(n) => go(`fabric:${n}`)}
              onGone={gone}
            />
          )}
          {!isGone && kind === 'rack' && (
            <RackPatternForm
              key={name}
              parts={data}
              pattern={rack ?? NEW_RACK}
              onSaved={(n) => go(`rack:${n}`)}
              onGone={gone}
            />
          )}
          {!isGone && kind === 'model' && (
            <ModelForm
              key={name}
              model={model ?? NEW_MODEL}
              taken={data.models}
              onSaved={(n) => go(`model:${n}`)}
              onGone={gone}
            />
          )}
        </div>
      </Two>
    </Page>
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
