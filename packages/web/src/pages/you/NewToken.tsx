import { ROLES, tokenRequest, type Role, type TokenRequest } from '@anthemion/contract';
import { accessApi } from '../../app/accessApi.ts';
import { api, notTaken } from '../../app/api.ts';
import { Faded, Row } from '../../parts/basics.tsx';
import { Choice, Tick } from '../../parts/fields.tsx';
import { ChoiceField, Form, FormButtons, TextField, useField, useFormPart } from '../../parts/Form.tsx';

const DAYS = ['1', '7', '30', '90', '365'];
const EVERY = '*';

/** A token for a script: what it may, where, and for how long. */
export function NewToken({
  onClose,
  onMade,
}: {
  readonly onClose: () => void;
  readonly onMade: (token: string) => void;
}) {
  const [make] = accessApi.useMakeTokenMutation();
  const part = useFormPart<TokenRequest>({
    schema: tokenRequest,
    initial: { name: '', days: 30, roles: [], fabrics: [] },
  });
  return (
    <Form
      part={part}
      onSend={async (values) => {
        const made = await make({ ...values, days: Number(values.days) });
        if (!made.data) return notTaken(made);
        onClose();
        onMade(made.data.token);
        return null;
      }}
      buttons={<FormButtons yes="Make the token" onNo={onClose} />}
    >
      <TextField name="name" label="Name" autoFocus placeholder="nightly export" />
      <MayField />
      <OnField />
      <ChoiceField
        name="days"
        label="Ends after"
        options={DAYS.map((d) => ({ id: d, name: d === '1' ? '1 day' : `${d} days` }))}
      />
    </Form>
  );
}

/** Roles of one's own that the token may use. */
function MayField() {
  const user = api.useSessionQuery().data?.user;
  const { value, onChange, error } = useField('roles');
  const roles = value as readonly Role[];
  const has = new Set([...(user?.roles ?? []), ...Object.values(user?.bound ?? {}).flat()]);
  return (
    <div role="group" aria-label="May">
      <b>May</b>
      <Row $gap={16} $wrap>
        {ROLES.filter((r) => has.has(r) && r !== 'onlooker').map((role) => (
          <Tick
            key={role}
            label={role}
            value={roles.includes(role)}
            onChange={(on) => onChange(on ? [...roles, role] : roles.filter((r) => r !== role))}
          />
        ))}
      </Row>
      <Faded>{error ?? 'None = it only looks. It never has more than you have yourself.'}</Faded>
    </div>
  );
}

function OnField() {
  const { data: fabrics = [] } = api.useFabricsQuery();
  const { value, onChange, error } = useField('fabrics');
  return (
    <Choice
      label="On"
      value={(value as readonly string[])[0] ?? EVERY}
      onChange={(f) => onChange(f === EVERY ? [] : [f])}
      options={[{ id: EVERY, name: 'every fabric you see' }, ...fabrics.map((f) => ({ id: f.name, name: f.name }))]}
      error={error}
    />
  );
}
