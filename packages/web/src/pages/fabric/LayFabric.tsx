import { kindOfRole, type PoolRole } from '@anthemion/core';
import { useState } from 'react';
import { api } from '../../app/api.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Faded, H2, Row, Stack } from '../../parts/basics.tsx';
import { Choice, FormGrid } from '../../parts/fields.tsx';
import { SizingFacts } from '../patterns/SizingFacts.tsx';
import { ROLE_TITLES } from './poolRoles.ts';
import { useFabricView } from './FabricFrame.tsx';

/** An empty fabric: choose a pattern and the pools; everything else has a default. */
export function LayFabric() {
  const { fabric } = useFabricView();
  const { data: parts } = api.usePartsQuery();
  const { data: pools = [] } = api.usePoolsQuery();
  const [patternName, setPatternName] = useState('');
  const [chosen, setChosen] = useState<Partial<Record<PoolRole, string>>>({});
  const makeEdits = useEdits(fabric.name);
  if (!parts) return null;
  const pattern = parts.fabricPatterns.find((p) => p.name === patternName);
  const roles = Object.keys(ROLE_TITLES) as PoolRole[];
  // The first pool of the right kind is proposed; the name of a pool often says what it is for.
  const proposed = (role: PoolRole): string => {
    const fit = pools.filter((p) => p.kind === kindOfRole(role));
    return chosen[role] ?? fit.find((p) => p.name.includes(ROLE_TITLES[role].hint))?.name ?? fit[0]?.name ?? '';
  };
  const lay = async (): Promise<void> => {
    if (!pattern) return;
    const rackPatterns = parts.rackPatterns.filter((r) => pattern.racks.some((e) => e.pattern === r.name));
    const models = parts.models.filter(
      (m) => m.name === pattern.spines.model || rackPatterns.some((r) => r.leafModel === m.name),
    );
    await makeEdits([
      { kind: 'layFabric', pattern, models, rackPatterns },
      { kind: 'choosePools', pools: Object.fromEntries(roles.map((r) => [r, proposed(r)])) },
    ]);
  };
  return (
    <Stack $gap={14} style={{ maxWidth: 720, padding: '20px 0' }}>
      <H2>Lay the fabric out from a pattern</H2>
      <Faded>Seats, links and values exist at once. Nothing on the network is touched until a rollout.</Faded>
      <Choice
        label="Fabric pattern"
        value={patternName}
        onChange={setPatternName}
        options={parts.fabricPatterns.map((p) => ({ id: p.name, name: p.name, note: p.description }))}
      />
      {pattern && <SizingFacts pattern={pattern} parts={parts} />}
      <Cap>Draw from</Cap>
      <FormGrid>
        {roles.map((role) => (
          <Choice
            key={role}
            label={ROLE_TITLES[role].title}
            value={proposed(role)}
            onChange={(name) => setChosen({ ...chosen, [role]: name })}
            options={pools
              .filter((p) => p.kind === kindOfRole(role))
              .map((p) => ({ id: p.name, name: p.name, note: `${p.size - p.held} of ${p.size} free` }))}
            placeholder="No pool of this kind"
          />
        ))}
      </FormGrid>
      <Row>
        <Button $kind="main" onPress={() => void lay()} isDisabled={!pattern}>
          Lay it out
        </Button>
      </Row>
    </Stack>
  );
}
