import { Link, useLocation } from 'react-router';
import { styled } from 'styled-components';
import { token } from '../parts/theme.ts';
import { ago } from '../parts/times.ts';
import { useChangeOf } from './useEdits.ts';
import { fabricOfPath } from './usePresence.ts';
import { watchApi } from './watchApi.ts';

/** Of the object that is selected on a page of a fabric: who else has it open, and who touched it last. */
export function ObjectNotes() {
  const { pathname, search } = useLocation();
  const fabric = fabricOfPath(pathname);
  const at = new URLSearchParams(search).get('at');
  return fabric !== null && at?.includes(':') ? <About fabric={fabric} at={at} /> : null;
}

function About({ fabric, at }: { readonly fabric: string; readonly at: string }) {
  const change = useChangeOf(fabric);
  const { currentData: people = [] } = watchApi.useHereQuery(fabric);
  const { currentData: touch } = watchApi.useTouchedQuery({ name: fabric, change, at });
  const others = [...new Set(people.filter((p) => p.at === at).map((p) => p.fullName))];
  if (others.length === 0 && !touch) return null;
  return (
    <Notes aria-label="Who is at it">
      {others.length > 0 && (
        <p>
          <b>{others.join(', ')}</b> {others.length === 1 ? 'has' : 'have'} it open too
        </p>
      )}
      {touch && (
        <p title={touch.sentence}>
          Last touched by {touch.by} {ago(touch.at)}, in{' '}
          <Link to={`/changes/${touch.change.id}`}>{touch.change.title}</Link>
        </p>
      )}
    </Notes>
  );
}
const Notes = styled.div`
  font-size: 12.5px;
  color: ${token('faded')};
  b {
    color: ${token('ochre')};
    font-weight: 600;
  }
  a {
    color: inherit;
  }
`;
