import { styled } from 'styled-components';
import { sans, token } from '../theme.ts';

export const ROW_HEIGHT = 31;
/** Narrower than this no column gets: the table scrolls sideways instead. */
export const LEAST_WIDTH = 84;

export const Frame = styled.div`
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
`;
export const Bar = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px;
  padding: 10px 0 8px;
  .count {
    color: ${token('faded')};
    font-size: 12.5px;
  }
  .grow {
    flex: 1;
  }
`;
export const BulkBar = styled.div`
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 10px;
  padding: 7px 12px;
  margin-bottom: 6px;
  border-radius: 4px;
  background: ${token('verdigris-wash')};
  font-size: 13px;
`;
export const Scroller = styled.div`
  /* What is drawn for readers only stays inside, and lengthens no page. */
  position: relative;
  overflow: auto;
  flex: 1;
  min-height: 0;
  table {
    border-collapse: separate;
    border-spacing: 0;
    width: 100%;
    font-size: 13px;
    table-layout: fixed;
  }
  thead th {
    position: sticky;
    top: 0;
    background: ${token('paper')};
    text-align: left;
    border-bottom: 1px solid ${token('rule')};
    padding: 0 8px;
    z-index: 1;
  }
  thead button {
    all: unset;
    cursor: pointer;
    font: 600 11px ${sans};
    letter-spacing: 0.08em;
    text-transform: uppercase;
    color: ${token('faded')};
    padding: 6px 0;
  }
  thead button:focus-visible {
    outline: 2px solid ${token('verdigris')};
  }
  .grip {
    position: absolute;
    right: 0;
    top: 3px;
    bottom: 3px;
    width: 7px;
    cursor: col-resize;
    border-right: 1px solid ${token('rule-soft')};
    touch-action: none;
  }
  .grip:hover {
    border-right: 2px solid ${token('verdigris')};
  }
  tbody th,
  td {
    height: ${ROW_HEIGHT}px;
    padding: 0 8px;
    border-bottom: 1px solid ${token('rule-soft')};
    font-weight: 400;
    text-align: left;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .right {
    text-align: right;
  }
  .pick {
    width: 32px;
    overflow: visible;
  }
  tbody tr[tabindex] {
    cursor: pointer;
  }
  tbody tr[tabindex]:hover > * {
    background: ${token('sheet')};
  }
  tbody tr.selected > *,
  tbody tr[aria-selected='true'] > * {
    background: ${token('verdigris-wash')};
  }
  tbody tr:focus-visible {
    outline-offset: -2px;
  }
  .none {
    color: ${token('faded')};
    padding: 16px 8px;
  }
`;
