import type { HeardAt } from '@anthemion/contract';
import { naturally } from '@anthemion/core';
import { skipToken } from '@reduxjs/toolkit/query';
import { useState, type FormEvent } from 'react';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { api, problemOf } from '../../app/api.ts';
import { Button, Cap, Faded, H3, Mono, Row, Waiting } from '../../parts/basics.tsx';
import { TextInput } from '../../parts/fields.tsx';
import { token } from '../../parts/theme.ts';

/** What one host is heard as: in all its VLANs, on all its switches. */
interface Host {
  readonly mac: string;
  readonly at: readonly HeardAt[];
}
function hostsIn(heard: readonly HeardAt[]): Host[] {
  const macs = [...new Set(heard.map((h) => h.mac))];
  return macs.map((mac) => ({ mac, at: heard.filter((h) => h.mac === mac) }));
}
const said = (words: readonly (string | null)[]): string =>
  [...new Set(words)]
    .filter((w) => w !== null)
    .sort(naturally)
    .join(', ');

/**
 * Asks the switches, now, on which port they hear a server, a MAC address or an address.
 * @param asked who is looked for; empty = nobody yet
 */
export function HeardAside({
  fabric,
  asked,
  onAsk,
  onDone,
}: {
  readonly fabric: string;
  readonly asked: string;
  readonly onAsk: (who: string) => void;
  readonly onDone: () => void;
}) {
  const [who, setWho] = useState(asked);
  // Another one is looked for from elsewhere, such as the palette.
  const [before, setBefore] = useState(asked);
  if (before !== asked) {
    setBefore(asked);
    setWho(asked);
  }
  const query = api.useHeardQuery(asked === '' ? skipToken : { name: fabric, what: asked }, {
    refetchOnMountOrArgChange: true,
  });
  const answer = query.isError || query.isFetching ? undefined : query.currentData;
  const problem = query.isError && asked === who.trim() ? problemOf(query.error) : null;
  const [finding] = problem?.findings ?? [];
  return (
    <>
      <Cap>Switches</Cap>
      <H3>Where is it heard?</H3>
      <Asking
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          onAsk(who.trim());
          if (who.trim() === asked && asked !== '') void query.refetch();
        }}
      >
        <TextInput
          label="Server, MAC address or address"
          code
          value={who}
          onChange={setWho}
          placeholder="52:54:00:12:34:56"
          hint="The switches are asked now; what is planned stands in the list."
          {...(problem ? { error: finding ? `${finding.message} ${finding.cure ?? ''}`.trim() : problem.detail } : {})}
        />
        <Row>
          <Button type="submit" $kind="main" isDisabled={who.trim() === ''}>
            Ask the switches
          </Button>
          <Button onPress={onDone}>Close</Button>
        </Row>
      </Asking>
      <div aria-live="polite">
        {query.isFetching && <Waiting what="Asking the switches" />}
        {answer && (
          <>
            {answer.heard.length === 0 && (
              <p>
                {answer.asked === 1
                  ? 'The switch that was asked does'
                  : `None of the ${answer.asked} switches asked does`}{' '}
                hear it. A host that has been silent for some minutes is forgotten.
              </p>
            )}
            {hostsIn(answer.heard).map(({ mac, at }) => (
              <Heard key={mac} aria-label={`Host ${mac}`}>
                <Mono>{mac}</Mono>
                {said(at.map((h) => h.server)) !== '' && <> · {said(at.map((h) => h.server))}</>}
                <ul>
                  {at.map((h) => (
                    <li key={`${h.host} ${h.port} ${h.vlan}`}>
                      <Link to={`/fabrics/${fabric}/text/${h.seat}`}>{h.host}</Link> <Mono>{h.port}</Mono>{' '}
                      <Faded>
                        {h.vlan === null ? 'no VLAN' : `VLAN ${h.vlan}`}
                        {h.network === null ? ', which no network here has' : ` · ${h.network}`}
                      </Faded>
                      {h.addresses.length > 0 && <Mono> {h.addresses.join(', ')}</Mono>}
                      {h.server === null && <em> no server is planned on that port</em>}
                    </li>
                  ))}
                </ul>
              </Heard>
            ))}
            <p>
              <Faded>
                {answer.asked} {answer.asked === 1 ? 'switch' : 'switches'} answered.
              </Faded>
            </p>
            {answer.silent.map(({ host, why }) => (
              <p key={host}>
                <b>{host}</b> did not answer: {why}
              </p>
            ))}
          </>
        )}
      </div>
    </>
  );
}
const Asking = styled.form`
  display: grid;
  gap: 10px;
  margin-bottom: 10px;
`;
const Heard = styled.section`
  padding: 8px 0;
  border-bottom: 1px solid ${token('rule')};
  ul {
    list-style: none;
    margin: 4px 0 0;
    padding: 0;
    font-size: 13px;
  }
  li {
    padding: 2px 0;
  }
  em {
    color: ${token('ochre')};
  }
`;
