import { Menu, MenuItem, MenuTrigger, Button as AriaButton, Separator } from 'react-aria-components';
import { useNavigate } from 'react-router';
import { styled } from 'styled-components';
import { ChoicePopover } from '../parts/fields.tsx';
import { token } from '../parts/theme.ts';
import { api } from './api.ts';
import { useAccess } from './session.ts';
import { sheetChosen, useAppDispatch, useAppSelector, type SheetChoice } from './store.ts';

const SHEETS: readonly SheetChoice[] = ['system', 'limestone', 'basalt'];
const SHEET_NAMES: Readonly<Record<SheetChoice, string>> = {
  system: 'Sheet as the system has it',
  limestone: 'Light sheet',
  basalt: 'Dark sheet',
};

/** Who is signed in, the choice of the sheet, and the pages about oneself and access. */
export function UserMenu({
  name,
  roles,
  onKeys,
  onOut,
}: {
  readonly name: string;
  readonly roles: string;
  readonly onKeys: () => void;
  readonly onOut: () => void;
}) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const sheet = useAppSelector((s) => s.preferences.sheet);
  const [signOut] = api.useSignOutMutation();
  const admin = useAccess('admin');
  const initials = name
    .split(' ')
    .map((w) => w[0])
    .join('')
    .slice(0, 2);
  return (
    <MenuTrigger>
      <Who aria-label={`${name}, ${roles}`}>{initials}</Who>
      <ChoicePopover>
        <MenuHead>
          <b>{name}</b>
          <span>{roles}</span>
        </MenuHead>
        <MenuList
          onAction={(key) => {
            if (key === 'out')
              void signOut().then(() => {
                onOut();
                dispatch(api.util.resetApiState());
              });
            else if (key === 'you') void navigate('/you/sessions');
            else if (key === 'access') void navigate(admin ? '/access/accounts' : '/access/switch-accounts');
            else if (key === 'keys') onKeys();
            else dispatch(sheetChosen(key as SheetChoice));
          }}
        >
          {SHEETS.map((s) => (
            <MenuItem id={s} key={s} textValue={s}>
              {sheet === s ? '● ' : '○ '}
              {SHEET_NAMES[s]}
            </MenuItem>
          ))}
          <Separator />
          <MenuItem id="keys">Keys of this page</MenuItem>
          <MenuItem id="you">Your sessions, tokens, password</MenuItem>
          <MenuItem id="access">{admin ? 'Accounts, access, audit log' : 'Switch accounts and secrets'}</MenuItem>
          <MenuItem id="out">Sign out</MenuItem>
        </MenuList>
      </ChoicePopover>
    </MenuTrigger>
  );
}

const Who = styled(AriaButton)`
  width: 30px;
  height: 30px;
  border: 0;
  border-radius: 50%;
  background: ${token('verdigris-wash')};
  color: ${token('verdigris')};
  font-weight: 600;
  font-size: 12px;
  cursor: pointer;
`;
const MenuHead = styled.div`
  padding: 6px 10px 8px;
  display: flex;
  flex-direction: column;
  font-size: 13px;
  border-bottom: 1px solid ${token('rule-soft')};
  span {
    color: ${token('faded')};
  }
`;
const MenuList = styled(Menu)`
  outline: none;
  [role^='menuitem'] {
    padding: 6px 10px;
    font-size: 13px;
    border-radius: 3px;
    cursor: pointer;
    outline: none;
  }
  [role^='menuitem'][data-focused] {
    background: ${token('verdigris-wash')};
  }
  [role='separator'] {
    border-top: 1px solid ${token('rule-soft')};
    margin: 4px 0;
  }
`;
