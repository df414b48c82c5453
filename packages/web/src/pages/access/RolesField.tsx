import { ROLES, type Role } from '@anthemion/contract';
import { X } from 'lucide-react';
import { styled } from 'styled-components';
import { api } from '../../app/api.ts';
import { rolesText, type HeldRoles } from '../../app/rolesText.ts';
import { token } from '../../parts/theme.ts';
import { Faded, IconButton, Row } from '../../parts/basics.tsx';
import { Choice, Tick } from '../../parts/fields.tsx';
import { useField } from '../../parts/Form.tsx';

const MEANS: Readonly<Record<Role, string>> = {
  designer: 'edits',
  approver: 'says yes',
  operator: 'rolls out',
  onlooker: 'looks',
  scripter: 'programs in text',
};

/** The fields `roles` and `bound` of the form around it: roles everywhere, and roles that hold on one fabric. */
export function RolesField() {
  const everywhere = useField('roles');
  const byFabric = useField('bound');
  const roles = everywhere.value as readonly Role[];
  const bound = byFabric.value as HeldRoles['bound'];
  const { data: fabrics = [] } = api.useFabricsQuery();
  const flip = (has: readonly Role[], role: Role, on: boolean): Role[] =>
    on ? [...has, role] : has.filter((r) => r !== role);
  const rest = fabrics.map((f) => f.name).filter((f) => !Object.hasOwn(bound, f));
  return (
    <Box>
      <fieldset>
        <legend>On every fabric</legend>
        {ROLES.map((role) => (
          <Tick
            key={role}
            label={`${role} · ${MEANS[role]}`}
            value={roles.includes(role)}
            onChange={(on) => everywhere.onChange(flip(roles, role, on))}
          />
        ))}
      </fieldset>
      {Object.entries(bound).map(([fabric, has]) => (
        <fieldset key={fabric}>
          <legend>
            <Row $gap={4}>
              On {fabric}
              <IconButton
                aria-label={`No roles on ${fabric}`}
                onPress={() =>
                  byFabric.onChange(Object.fromEntries(Object.entries(bound).filter(([f]) => f !== fabric)))
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
              onChange={(on) => byFabric.onChange({ ...bound, [fabric]: flip(has, role, on) })}
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
          onChange={(fabric) => fabric !== '' && byFabric.onChange({ ...bound, [fabric]: [] })}
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
