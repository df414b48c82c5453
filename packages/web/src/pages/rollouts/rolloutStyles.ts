import { styled } from 'styled-components';
import { mono, sans, serif, token } from '../../parts/theme.ts';

export const Sum = styled.p`
  font-size: 13px;
  padding: 2px 0 6px;
`;
export const Waves = styled.ol`
  display: flex;
  gap: 10px;
  padding: 12px 0 8px;
  overflow-x: auto;
  li {
    border: 1px solid ${token('rule')};
    border-radius: 5px;
    background: ${token('sheet')};
    padding: 9px 12px;
    min-width: 118px;
    flex-basis: 0;
  }
  li.on {
    border-color: ${token('ochre')};
  }
  h2 {
    font: 600 14.5px ${serif};
    display: flex;
    gap: 7px;
    align-items: center;
    white-space: nowrap;
  }
  p {
    font-size: 12px;
    color: ${token('faded')};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .bar {
    display: flex;
    height: 5px;
    border-radius: 3px;
    background: ${token('rule-soft')};
    margin-top: 7px;
    overflow: hidden;
  }
  .bar i {
    transition: width 0.3s;
  }
  .good {
    background: ${token('verdigris')};
  }
  .wait {
    background: ${token('ochre')};
  }
  .bad {
    background: ${token('madder')};
  }
`;
export const Scroller = styled.div`
  flex: 1;
  min-height: 0;
  overflow: auto;
  table {
    border-collapse: collapse;
    width: 100%;
    font-size: 13px;
  }
  thead th {
    font: 600 11px ${sans};
    letter-spacing: 0.06em;
    text-transform: uppercase;
    color: ${token('faded')};
    text-align: left;
    padding: 6px 8px;
    border-bottom: 1px solid ${token('rule')};
    position: sticky;
    top: 0;
    background: ${token('paper')};
    white-space: nowrap;
  }
  tbody th,
  td {
    padding: 0 8px;
    height: 31px;
    border-bottom: 1px solid ${token('rule-soft')};
    text-align: left;
    font-weight: 400;
    white-space: nowrap;
  }
  tbody tr {
    cursor: pointer;
  }
  tbody tr:hover > * {
    background: ${token('sheet')};
  }
  tr.selected > * {
    background: ${token('verdigris-wash')} !important;
  }
  .right {
    text-align: right;
  }
  .say {
    max-width: 260px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  button {
    all: unset;
    cursor: pointer;
    display: flex;
    gap: 8px;
    align-items: center;
    font: 12.5px ${mono};
  }
  button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
  .steps {
    display: flex;
    gap: 3px;
  }
  .steps i {
    width: 27px;
    height: 7px;
    border-radius: 2px;
    background: ${token('rule-soft')};
  }
  .steps .good {
    background: ${token('verdigris')};
  }
  .steps .wait {
    background: ${token('ochre')};
  }
  .steps .bad {
    background: ${token('madder')};
  }
`;
export const Foot = styled.p`
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 12.5px;
  color: ${token('faded')};
  padding: 8px 0;
`;
