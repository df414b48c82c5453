import { withSpare, type PolicyRow, type PolicyUsed } from '@anthemion/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { Bad, Button, Cap, Empty, Faded, Mono, Row } from '../../../parts/basics.tsx';
import { useMay } from '../../../app/session.ts';
import { token } from '../../../parts/theme.ts';
import { useFabricView, useSelection } from '../FabricFrame.tsx';

/** What stands in the address where a new list, or a new route map, is made. */
export const NEW_LIST = 'new-list';
export const NEW_MAP = 'new-map';

const KINDS = [
  'route map',
  'prefix list',
  'IPv6 prefix list',
  'community list',
  'large community list',
  'extended community list',
  'AS path list',
  'access list',
  'IPv6 access list',
] as const;
const TITLES: Readonly<Record<PolicyRow['kind'], string>> = {
  'route map': 'Route maps',
  'prefix list': 'Prefix lists',
  'IPv6 prefix list': 'IPv6 prefix lists',
  'community list': 'Community lists',
  'large community list': 'Large community lists',
  'extended community list': 'Extended community lists',
  'AS path list': 'AS path lists',
  'access list': 'Access lists',
  'IPv6 access list': 'IPv6 access lists',
};
/** More switches are counted. */
const NAMED = 3;
const onSwitches = (hosts: readonly string[]): string =>
  hosts.length <= NAMED ? hosts.join(', ') : `${hosts.length} switches`;
const usedOn = ({ words, hosts }: PolicyUsed, all: number): string =>
  hosts.length === all ? words : `${words}, on ${onSwitches(hosts)}`;

/** Route maps and lists of the fabric, what each says and what goes through it. */
export function Policies({ policies: had }: { readonly policies: readonly PolicyRow[] }) {
  const { fabric } = useFabricView();
  const [, select] = useSelection();
  const may = useMay('designer');
  const policies = withSpare(had, fabric.intent.policies);
  const add = may ? (
    <Row>
      <Button onPress={() => select(NEW_MAP)}>Add a route map</Button>
      <Button onPress={() => select(NEW_LIST)}>Add a list</Button>
    </Row>
  ) : undefined;
  if (policies.length === 0)
    return (
      <Empty title="Nothing is held back" {...(add ? { action: add } : {})}>
        No switch has a route map or a list yet. Those of the fabric are used by sessions with routers outside.
      </Empty>
    );
  return (
    <Sheet>
      {add}
      {KINDS.filter((kind) => policies.some((p) => p.kind === kind)).map((kind) => (
        <section key={kind} aria-label={TITLES[kind]}>
          <Cap>{TITLES[kind]}</Cap>
          <table aria-label={TITLES[kind]}>
            <thead>
              <tr>
                <th scope="col">Name</th>
                <th scope="col">Says</th>
                <th scope="col">Used for</th>
                <th scope="col">On</th>
              </tr>
            </thead>
            <tbody>
              {policies
                .filter((p) => p.kind === kind)
                .map((p) => (
                  <tr key={`${p.name} ${p.hosts[0] ?? ''}`}>
                    <th scope="row">
                      {p.key !== undefined && may ? (
                        <Link to={`?at=policy:${p.key}`}>
                          <Mono>{p.name}</Mono>
                        </Link>
                      ) : (
                        <Mono>{p.name}</Mono>
                      )}
                    </th>
                    <td>
                      <Says says={p.says} name={p.name} />
                    </td>
                    <td>
                      {p.uses.length === 0 && (p.hosts.length === 0 ? <Faded>nothing yet</Faded> : <Bad>nothing</Bad>)}
                      {p.uses.map((u) => (
                        <div key={u.words}>{usedOn(u, p.hosts.length)}</div>
                      ))}
                    </td>
                    <td>{p.hosts.length === 0 ? <Faded>no switch</Faded> : onSwitches(p.hosts)}</td>
                  </tr>
                ))}
            </tbody>
          </table>
        </section>
      ))}
    </Sheet>
  );
}
/** Entries are read at a glance up to so many; of more, the first stand for all until they are asked for. */
const AT_A_GLANCE = 8;
function Says({ says, name }: { readonly says: readonly string[]; readonly name: string }) {
  const [whole, setWhole] = useState(false);
  const shown = whole || says.length <= AT_A_GLANCE ? says : says.slice(0, AT_A_GLANCE - 2);
  return (
    <>
      {shown.map((words, i) => (
        <div key={i}>{words}</div>
      ))}
      {shown.length < says.length && (
        <Button onPress={() => setWhole(true)} aria-label={`All ${says.length} entries of ${name}`}>
          {says.length - shown.length} more
        </Button>
      )}
    </>
  );
}

const Sheet = styled.div`
  overflow: auto;
  padding: 14px 0 24px;
  display: grid;
  gap: 22px;
  align-content: start;
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 13px;
    table-layout: fixed;
  }
  th,
  td {
    text-align: left;
    vertical-align: top;
    padding: 6px 14px 6px 0;
    border-bottom: 1px solid ${token('rule-soft')};
    overflow-wrap: anywhere;
  }
  thead th {
    color: ${token('faded')};
    font-weight: 400;
    font-size: 12px;
  }
  th:first-child {
    width: 20%;
  }
  th:last-child {
    width: 16%;
  }
`;
