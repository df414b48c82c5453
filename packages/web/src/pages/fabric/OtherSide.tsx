import { knownServers } from '@anthemion/core';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { Cap, Copyable, Faded, Failure } from '../../parts/basics.tsx';
import { mono, token } from '../../parts/theme.ts';
import { useFabricView } from './FabricFrame.tsx';

/** What routers outside have to be told, or servers that speak BGP, to be handed over to who runs them. */
export function OtherSide({ of }: { readonly of: 'routers' | 'servers' }) {
  const { fabric, change } = useFabricView();
  const { currentData, error, refetch } = api.useOutsideQuery({ name: fabric.name, change });
  if (error !== undefined) return <Failure detail={problemOf(error).detail} onRetry={() => void refetch()} />;
  const servers = knownServers(fabric.intent);
  const routers = currentData?.filter(({ system }) => servers.has(system) === (of === 'servers'));
  if (!routers || routers.length === 0) return null;
  return (
    <Section aria-label="Lines for the other side">
      <Cap style={{ marginTop: 14 }}>Lines for the other side</Cap>
      <Faded>
        Sessions come up when both sides have theirs. In the words of FRR; another make says the same otherwise.
      </Faded>
      {routers.map(({ system, text }) => (
        <Router key={system}>
          <summary>
            <b>{system}</b> <Faded>{text.trimEnd().split('\n').length} lines</Faded>
          </summary>
          <Copyable text={text} label={`the lines of ${system}`}>
            <Faded>Secrets are named, not said: tell them by another way.</Faded>
          </Copyable>
          <pre tabIndex={0}>{text}</pre>
        </Router>
      ))}
    </Section>
  );
}

/** The tables above keep most of the page. */
const Section = styled.section`
  flex: none;
  max-height: 36vh;
  overflow: auto;
`;
const Router = styled.details`
  margin-top: 8px;
  border: 1px solid ${token('rule')};
  border-radius: 4px;
  background: ${token('sheet')};
  padding: 6px 12px;
  summary {
    cursor: pointer;
  }
  pre {
    margin: 6px 0;
    overflow: auto;
    font-family: ${mono};
    font-size: 12.5px;
    line-height: 1.5;
  }
`;
