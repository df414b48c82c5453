import { styled } from 'styled-components';
import { token } from '../parts/theme.ts';
import { watchApi } from './watchApi.ts';

/** Who else looks at a fabric now, and what each has open or selected. */
export function OthersHere({ fabric, change }: { readonly fabric: string; readonly change: string | null }) {
  const { currentData: people = [] } = watchApi.useHereQuery(fabric);
  if (people.length === 0) return null;
  return (
    <People aria-label="Who else is here">
      {people.map((p) => (
        <li key={`${p.account} ${p.since}`}>
          <b>{p.fullName}</b> {change !== null && p.change === change ? 'has this change open' : 'is here'}
          {p.at !== '' && `, at ${p.at.replace(':', ' ')}`}
        </li>
      ))}
    </People>
  );
}
const People = styled.ul`
  font-size: 12.5px;
  color: ${token('faded')};
  border-left: 2px solid ${token('ochre')};
  padding-left: 8px;
  b {
    color: ${token('ink')};
    font-weight: 600;
  }
`;
