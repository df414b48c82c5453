import { styled } from 'styled-components';
import { StateMark } from '../parts/StateMark.tsx';
import { token } from '../parts/theme.ts';
import { watchApi } from './watchApi.ts';

/** The mark in the band: how many changes ask for the yes of whoever looks, and how much is wrong. */
export function WaitMark() {
  const { data } = watchApi.useDayQuery();
  const asks = data?.waits.filter((w) => w.why === 'asks your yes').length ?? 0;
  const wrong = data?.causes.length ?? 0;
  if (asks === 0 && wrong === 0) return null;
  return (
    <Marks>
      {wrong > 0 && (
        <span title={`${wrong} ${wrong === 1 ? 'thing is' : 'things are'} wrong now`}>
          <StateMark mood="fallen" size={14} label={`${wrong} wrong now`} />
          {wrong}
        </span>
      )}
      {asks > 0 && (
        <span title={`${asks} ${asks === 1 ? 'change asks' : 'changes ask'} your yes`}>
          <StateMark mood="dewed" size={14} label={`${asks} ask your yes`} />
          {asks}
        </span>
      )}
    </Marks>
  );
}
const Marks = styled.span`
  display: flex;
  gap: 8px;
  font: 600 12px system-ui;
  color: ${token('faded')};
  span {
    display: flex;
    gap: 3px;
    align-items: center;
  }
`;
