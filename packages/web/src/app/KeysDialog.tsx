import { Fragment } from 'react';
import { styled } from 'styled-components';
import { Dialog } from '../parts/Dialog.tsx';
import { SECTIONS } from './sections.ts';
import { mono, token } from '../parts/theme.ts';

const KEYS: readonly (readonly [string, string])[] = [
  ['Ctrl K', 'find or do anything'],
  ...SECTIONS.map((s) => [`g ${s.key}`, `go to ${s.name}`] as const),
  ['/', 'filter the list in view'],
  ['↑ ↓ Home End', 'walk a list; between neighbours in the palmette with ← →'],
  ['Enter', 'open what has the focus'],
  ['Esc', 'close the aside or a dialog'],
  ['?', 'this list'],
];

export function KeysDialog({ isOpen, onClose }: { readonly isOpen: boolean; readonly onClose: () => void }) {
  return (
    <Dialog title="Keys" isOpen={isOpen} onClose={onClose} width={420}>
      <List>
        {KEYS.map(([k, what]) => (
          <Fragment key={k}>
            <dt>{k}</dt>
            <dd>{what}</dd>
          </Fragment>
        ))}
      </List>
    </Dialog>
  );
}
const List = styled.dl`
  display: grid;
  grid-template-columns: 130px 1fr;
  row-gap: 6px;
  dt {
    font: 12px ${mono};
    color: ${token('verdigris')};
  }
`;
