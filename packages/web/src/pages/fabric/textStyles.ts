import { styled } from 'styled-components';
import { token } from '../../parts/theme.ts';

/** The line over a text, the switches beside it, and the place it stands in. */
export const Bar = styled.div<{ $inset?: boolean }>`
  display: flex;
  gap: 4px 18px;
  flex-wrap: wrap;
  align-items: center;
  font-size: 13px;
  padding: 8px ${(p) => (p.$inset ? '14px' : '0')};
  color: ${token('faded')};
  b:not([class]) {
    color: ${token('ink')};
  }
  button {
    all: unset;
    cursor: pointer;
    padding: 1px 7px;
    border-radius: 3px;
    border: 1px solid transparent;
  }
  button[aria-pressed='true'] {
    color: ${token('ink')};
    font-weight: 600;
    border-color: ${token('rule')};
    background: ${token('sheet')};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
  > * {
    white-space: nowrap;
  }
  .files {
    margin-left: auto;
  }
`;
export const Columns = styled.div`
  display: grid;
  grid-template-columns: 168px minmax(0, 1fr);
  flex: 1;
  min-height: 0;
  margin: 0 -22px;
  border-top: 1px solid ${token('rule-soft')};
`;
export const Code = styled.div`
  min-height: 0;
  min-width: 0;
  overflow: hidden;
  background: ${token('sheet')};
  display: flex;
  flex-direction: column;
`;
/** What differs, sentence by sentence. */
export const Sentences = styled.ul`
  display: flex;
  flex-direction: column;
  gap: 7px;
  font-size: 13px;
  margin: 10px 0;
  overflow-wrap: anywhere;
  li {
    padding-bottom: 6px;
    border-bottom: 1px solid ${token('rule-soft')};
  }
`;
/** What is compared with what. */
export const MomentsBar = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 0;
  font-size: 13px;
  > * {
    flex: 0 1 190px;
    min-width: 0;
  }
  > button {
    flex: none;
  }
`;
