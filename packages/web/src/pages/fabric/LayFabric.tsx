import {
  POOL_ROLES,
  proposePool,
  rolesDrawn,
  suitsRole,
  upperModels,
  type PoolRole,
  type ProposedPool,
} from '@anthemion/core';
import type { FabricAnswer, PartsAnswer, PoolAnswer } from '@anthemion/contract';
import { object, string } from 'yup';
import { api } from '../../app/api.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Cap, Faded, H2, Waiting } from '../../parts/basics.tsx';
import { FormGrid } from '../../parts/fields.tsx';
import { ChoiceField, Form, FormButtons, useFormPart } from '../../parts/Form.tsx';
import { SizingFacts } from '../patterns/SizingFacts.tsx';
import { useFabricView } from './FabricFrame.tsx';
import { ROLE_TITLES } from '../../parts/poolRoles.ts';

type Typed = Readonly<Record<PoolRole | 'pattern', string>>;
const SCHEMA = object({
  pattern: string().required('choose a pattern'),
  // Not every fabric draws from each: unnumbered links need no pool. What is missing is said where it is drawn.
  ...Object.fromEntries(POOL_ROLES.map((r) => [r, string().default('')])),
});

/** An empty fabric: choose a pattern and the pools; everything else has a default. */
export function LayFabric() {
  const { data: parts } = api.usePartsQuery();
  const { data: pools } = api.usePoolsQuery();
  const { data: fabrics } = api.useFabricsQuery();
  return parts && pools && fabrics ? <LayForm parts={parts} pools={pools} fabrics={fabrics} /> : <Waiting />;
}

interface LayFormProps {
  readonly parts: PartsAnswer;
  readonly pools: readonly PoolAnswer[];
  readonly fabrics: readonly Pick<FabricAnswer, 'name'>[];
}
function LayForm({ parts, pools, fabrics }: LayFormProps) {
  const { fabric } = useFabricView();
  const others = fabrics.flatMap((f) => (f.name === fabric.name ? [] : f.name));
  const proposed = Object.fromEntries(POOL_ROLES.map((r) => [r, proposePool(pools, r, fabric.name, others)])) as Record<
    PoolRole,
    ProposedPool
  >;
  const makeEdits = useEdits(fabric.name);
  const part = useFormPart<Typed>({
    schema: SCHEMA,
    initial: {
      pattern: '',
      ...(Object.fromEntries(POOL_ROLES.map((r) => [r, proposed[r].pool])) as Record<PoolRole, string>),
    },
    base: '/edits/1/pools',
  });
  const chosen = part.rhf.watch('pattern');
  const pattern = parts.fabricPatterns.find((p) => p.name === chosen);
  const roles = pattern ? rolesDrawn(pattern, pattern.settings) : POOL_ROLES;
  const lay = async ({ pattern: name, ...drawn }: Typed) => {
    const of = parts.fabricPatterns.find((p) => p.name === name)!;
    const rackPatterns = parts.rackPatterns.filter((r) => of.racks.some((e) => e.pattern === r.name));
    const models = parts.models.filter(
      (m) => upperModels(of).includes(m.name) || rackPatterns.some((r) => r.leafModel === m.name),
    );
    const made = await makeEdits(
      [
        { kind: 'layFabric', pattern: of, models, rackPatterns },
        ...(roles.length > 0
          ? [{ kind: 'choosePools' as const, pools: Object.fromEntries(roles.map((r) => [r, drawn[r]])) }]
          : []),
      ],
      true,
    );
    return made.ok ? null : made;
  };
  return (
    <div style={{ maxWidth: 720, padding: '20px 0' }}>
      <Form part={part} onSend={lay} buttons={<FormButtons yes="Lay it out" isDisabled={!pattern} />}>
        <H2>Lay the fabric out from a pattern</H2>
        <Faded>Seats, links and values exist at once. Nothing on the network is touched until a rollout.</Faded>
        <ChoiceField
          name="pattern"
          label="Fabric pattern"
          options={parts.fabricPatterns.map((p) => ({ id: p.name, name: p.name, note: p.description }))}
        />
        {pattern && <SizingFacts pattern={pattern} parts={parts} />}
        {roles.length > 0 && <Cap>Draw from</Cap>}
        <FormGrid>
          {roles.map((role) => (
            <ChoiceField
              key={role}
              name={role}
              label={ROLE_TITLES[role]}
              options={pools
                .filter((p) => suitsRole(p, role))
                .map((p) => ({ id: p.name, name: p.name, note: `${p.size - p.held} of ${p.size} free` }))}
              placeholder="No pool of this kind"
              {...(part.rhf.watch(role) === proposed[role].pool && proposed[role].why !== ''
                ? { hint: proposed[role].why }
                : {})}
            />
          ))}
        </FormGrid>
      </Form>
    </div>
  );
}
