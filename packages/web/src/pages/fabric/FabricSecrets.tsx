import type { SecretAnswer } from '@anthemion/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { accessApi } from '../../app/accessApi.ts';
import { useEdits } from '../../app/useEdits.ts';
import { Button, Cap, Faded, Mono, Row } from '../../parts/basics.tsx';
import { Choice } from '../../parts/fields.tsx';
import { useFabricView } from './FabricFrame.tsx';

/** Secrets a fabric has taken up: its snippets write them by name. */
export function FabricSecrets({ may }: { readonly may: boolean }) {
  const { fabric } = useFabricView();
  const makeEdits = useEdits(fabric.name);
  const { data: known = [] } = accessApi.useSecretsQuery();
  const [name, setName] = useState('');
  const used = fabric.intent.secrets;
  const newest = (of: string): SecretAnswer | undefined => known.find((s) => s.name === of);
  const take = (s: SecretAnswer): void =>
    void makeEdits([{ kind: 'putSecret', secret: { name: s.name, digest: s.digest } }]);
  const rest = known.filter((s) => !used.some((u) => u.name === s.name));
  return (
    <>
      <Cap>Secrets it uses</Cap>
      {used.map((s) => {
        const now = newest(s.name);
        return (
          <Row key={s.name}>
            <Mono>{`{{ secrets.${s.name} }}`}</Mono>
            <Faded>
              {now === undefined
                ? 'its name is forgotten; the value stays'
                : now.digest === s.digest
                  ? 'newest value'
                  : 'an older value'}
            </Faded>
            <span style={{ flex: 1 }} />
            {may && now !== undefined && now.digest !== s.digest && (
              <Button $kind="quiet" onPress={() => take(now)}>
                Take up the newest
              </Button>
            )}
            {may && (
              <Button onPress={() => void makeEdits([{ kind: 'removeSecret', name: s.name }])}>Use no more</Button>
            )}
          </Row>
        );
      })}
      {used.length === 0 && (
        <Faded>
          None. Their values are kept under <Link to="/access/secrets">Secrets</Link>.
        </Faded>
      )}
      {may && rest.length > 0 && (
        <Row $align="end">
          <Choice
            label="Secret"
            value={name}
            onChange={setName}
            options={rest.map((s) => ({ id: s.name, name: s.name, note: s.note }))}
          />
          <Button
            isDisabled={newest(name) === undefined}
            onPress={() => {
              take(newest(name)!);
              setName('');
            }}
          >
            Take it up
          </Button>
        </Row>
      )}
    </>
  );
}
