import { styled } from 'styled-components';
import { token } from '../parts/theme.ts';
import { watchApi } from './watchApi.ts';

/** Who else looks at a fabric now, and what each has open or selected. */
export function OthersHere({ fabric, change }: { readonly fabric: string; readonly change: string | null }) {
  const { currentData = [] } = watchApi.useHereQuery(fabric);
  // Somebody with two browsers at the same place is one person.
  const people = [...new Map(currentData.map((p) => [`${p.account} ${p.change ?? ''} ${p.at}`, p])).values()];
  if (people.length === 0) return null;
  return (
    <People aria-label="Who else is here">
      {people.map((p) => (
        <li key={`${p.account} ${p.change ?? ''} ${p.at}`}>
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
