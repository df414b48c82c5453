import { ROLES, type Role } from '@anthemion/contract';
import { X } from 'lucide-react';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { rolesText, type HeldRoles } from '../../app/rolesText.ts';
import { token } from '../../parts/theme.ts';
import { Faded, IconButton, Row } from '../../parts/basics.tsx';
import { Choice, Tick } from '../../parts/fields.tsx';

const MEANS: Readonly<Record<Role, string>> = {
  designer: 'edits',
  approver: 'says yes',
  operator: 'rolls out',
  onlooker: 'looks',
  scripter: 'programs in text',
};

/** Roles everywhere, and besides them roles that hold on one fabric. */
export function RolePicker({
  value,
  onChange,
}: {
  readonly value: HeldRoles;
  readonly onChange: (to: HeldRoles) => void;
}) {
  const { data: fabrics = [] } = api.useFabricsQuery();
  const flip = (has: readonly Role[], role: Role, on: boolean): Role[] =>
    on ? [...has, role] : has.filter((r) => r !== role);
  const rest = fabrics.map((f) => f.name).filter((f) => !Object.hasOwn(value.bound, f));
  return (
    <Box>
      <fieldset>
        <legend>On every fabric</legend>
        {ROLES.map((role) => (
          <Tick
            key={role}
            label={`${role} · ${MEANS[role]}`}
            value={value.roles.includes(role)}
            onChange={(on) => onChange({ ...value, roles: flip(value.roles, role, on) })}
          />
        ))}
      </fieldset>
      {Object.entries(value.bound).map(([fabric, has]) => (
        <fieldset key={fabric}>
          <legend>
            <Row $gap={4}>
              On {fabric}
              <IconButton
                aria-label={`No roles on ${fabric}`}
                onPress={() =>
                  onChange({
                    ...value,
                    bound: Object.fromEntries(Object.entries(value.bound).filter(([f]) => f !== fabric)),
                  })
                }
              >
                <X size={13} />
              </IconButton>
            </Row>
          </legend>
          {ROLES.map((role) => (
            <Tick
              key={role}
              label={role}
              value={has.includes(role)}
              onChange={(on) => onChange({ ...value, bound: { ...value.bound, [fabric]: flip(has, role, on) } })}
            />
          ))}
        </fieldset>
      ))}
      {rest.length > 0 && (
        <Choice
          label="Roles on one fabric"
          value=""
          placeholder="Add a fabric …"
          options={rest.map((id) => ({ id, name: id }))}
          onChange={(fabric) => fabric !== '' && onChange({ ...value, bound: { ...value.bound, [fabric]: [] } })}
        />
      )}
    </Box>
  );
}
const Box = styled.div`
  display: flex;
  flex-direction: column;
  gap: 12px;
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
    display: flex;
    flex-direction: column;
    gap: 5px;
  }
  legend {
    font-weight: 600;
    padding: 0 0 4px;
    color: ${token('ink')};
  }
`;

export const Roles = ({ of }: { readonly of: HeldRoles & { readonly admin?: boolean } }) => {
  const text = rolesText(of);
  return text === '' ? <Faded>none yet</Faded> : <span title={text}>{text}</span>;
};
