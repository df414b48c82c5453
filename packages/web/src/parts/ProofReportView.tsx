import { groupBy, RULE_SCOPES, waivedRules, type Finding, type ProofReport, type RuleScope } from '@anthemion/core';
import { Fragment, type ReactNode } from 'react';
import { Link } from 'react-router';
import { styled } from 'styled-components';
import { subjectLead } from './subjectLead.ts';
import { sans, token } from './theme.ts';
import { Bad, Cap, Faded, Mono, New, Row } from './basics.tsx';
import { fullness, StateMark } from './StateMark.tsx';

/** Where a finding leads: to what it is about, or the text line. */
function leadOf(f: Finding, fabric: string, seatOf: ReadonlyMap<string, string>): { to: string; text: string } | null {
  const subject = f.subjects?.[0];
  const lead = subject === undefined ? null : subjectLead(fabric, subject);
  if (lead) return lead;
  if (f.host && seatOf.has(f.host))
    return { to: `/fabrics/${fabric}/text/${seatOf.get(f.host)}`, text: `to the text of ${f.host}` };
  return null;
}

const NONE: ReadonlySet<string> = new Set();
/** More are counted. */
const MOST_FINDINGS = 60;
/** Findings, each with what would be right and where it leads. */
export const FindingList = ({
  findings,
  titleOf,
  fabric,
  seatOf,
  waivable = NONE,
}: {
  readonly findings: readonly Finding[];
  readonly titleOf: (rule: string) => string;
  readonly fabric: string;
  readonly seatOf: ReadonlyMap<string, string>;
  /** Rules one may waive from here. */
  readonly waivable?: ReadonlySet<string>;
}) => (
  <ul>
    {findings.slice(0, MOST_FINDINGS).map((f, i) => {
      const lead = leadOf(f, fabric, seatOf);
      return (
        <FindingItem key={`${f.rule}${i}`} $bad={f.severity === 'error'}>
          <StateMark mood={f.severity === 'error' ? 'fallen' : 'dewed'} size={16} label={f.severity} />
          <div>
            <p>{f.message}</p>
            {f.cure && <p className="cure">What would be right: {f.cure}</p>}
            {f.waived && (
              <p className="cure">
                Waived by {f.waived.by} until {f.waived.until}: {f.waived.reason}
              </p>
            )}
            <small>
              {titleOf(f.rule)}
              {f.place && (
                <>
                  {' · '}
                  <Mono>
                    {f.place.host}/{f.place.file}:{f.place.line}
                  </Mono>
                </>
              )}
              {lead && (
                <>
                  {' · '}
                  <Link to={lead.to}>{lead.text}</Link>
                </>
              )}
              {f.severity !== 'note' && waivable.has(f.rule) && (
                <>
                  {' · '}
                  <Link to={`/fabrics/${fabric}/proof?waive=${f.rule}`}>waive the rule …</Link>
                </>
              )}
            </small>
          </div>
        </FindingItem>
      );
    })}
    {findings.length > MOST_FINDINGS && <Faded>and {findings.length - MOST_FINDINGS} more</Faded>}
  </ul>
);

/** What the rules of a scope look at. */
const SCOPE_WORDS: Readonly<Record<RuleScope, string>> = {
  intent: 'Of what is meant',
  layout: 'Of which switches that makes, and how they are joined',
  switch: 'Of each switch, by its text',
  network: 'Of the network that the texts make',
};

/** From what is meant to what comes of it. */
const inScopes = (rules: ProofReport['rules']): ProofReport['rules'] => {
  const place = (scope: RuleScope | undefined): number => (scope === undefined ? -1 : RULE_SCOPES.indexOf(scope));
  return [...rules].sort((a, b) => place(a.scope) - place(b.scope));
};

/** A proof: what it found first, then the figures before and after, the switches it touches, and every rule. */
export function ProofReportView({
  proof,
  fabric,
  isChange,
  mayWaive = false,
  children,
}: {
  readonly proof: ProofReport;
  readonly fabric: string;
  readonly isChange: boolean;
  readonly mayWaive?: boolean;
  /** What more there is to ask of the network, above the rules. */
  readonly children?: ReactNode;
}) {
  const seatOf = new Map(proof.switches.map((s) => [s.host, s.seat]));
  const titleOf = (rule: string): string => proof.rules.find((r) => r.id === rule)?.title ?? rule;
  const waivable = mayWaive ? new Set(proof.rules.map((r) => r.id)) : NONE;
  const waived = waivedRules(proof.findings);
  const touched = proof.switches.filter((s) => s.fate !== 'same');
  const most = Math.max(1, ...touched.map((s) => s.added + s.removed));
  const figures: [string, string, string][] = [
    [
      'BGP session ends up',
      `${proof.before.sessionsUp} of ${proof.before.sessions}`,
      `${proof.after.sessionsUp} of ${proof.after.sessions}`,
    ],
    ['Loopback routes', String(proof.before.routes), String(proof.after.routes)],
    ['L2 VNIs', String(proof.before.l2Vnis), String(proof.after.l2Vnis)],
    ['VTEP pairs that hear each other', String(proof.before.vtepPairs), String(proof.after.vtepPairs)],
    ['L3 VNIs', String(proof.before.l3Vnis), String(proof.after.l3Vnis)],
  ];
  return (
    <Sheet>
      <section aria-label="Findings">
        {proof.findings.length === 0 ? (
          <Row $gap={9}>
            <StateMark mood="bloom" size={24} />
            <span>
              <b>All {proof.rules.length} design rules hold.</b>{' '}
              <Faded>The text to be sent was read back and the network it makes was modelled.</Faded>
            </span>
          </Row>
        ) : (
          <FindingList
            findings={proof.findings}
            titleOf={titleOf}
            fabric={fabric}
            seatOf={seatOf}
            waivable={waivable}
          />
        )}
      </section>
      <Two>
        <section aria-label="Before and after">
          <Cap>Before and after</Cap>
          <table>
            <tbody>
              {figures.map(([what, before, after]) => (
                <tr key={what} className={before === after ? '' : 'moved'}>
                  <th scope="row">{what}</th>
                  <td>{before}</td>
                  <td>{before === after ? 'same' : `→ ${after}`}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section aria-label="Switches">
          <Cap>
            {touched.length} of {proof.switches.length} switches {isChange ? 'change' : 'differ'}
          </Cap>
          <ul className="switches">
            {touched.slice(0, 40).map((s) => (
              <li key={s.host}>
                <Link to={`/fabrics/${fabric}/text/${s.seat}`}>
                  <Mono>{s.host}</Mono>
                </Link>
                <span className="bar" aria-hidden>
                  <i style={{ width: `${(100 * s.added) / most}%` }} />
                  <u style={{ width: `${(100 * s.removed) / most}%` }} />
                </span>
                <span className="count">
                  <New>+{s.added}</New> <Bad>−{s.removed}</Bad> <Faded>{s.fate === 'changed' ? '' : s.fate}</Faded>
                </span>
              </li>
            ))}
            {touched.length === 0 && <li>None.</li>}
          </ul>
        </section>
      </Two>
      {children}
      {/* The sheet may be longer than the window, with nothing else in it that a keyboard gets to. */}
      <section aria-label="Rules" tabIndex={0}>
        <Cap>Design rules</Cap>
        {[...groupBy(inScopes(proof.rules), (r) => r.scope)].map(([scope, rules]) => (
          <Fragment key={scope ?? ''}>
            {scope && <Scope>{SCOPE_WORDS[scope]}</Scope>}
            <Rules>
              {rules.map((r) => (
                <li key={r.id} title={r.source}>
                  <StateMark
                    {...(r.findings > 0
                      ? { mood: r.severity === 'error' && !waived.has(r.id) ? ('fallen' as const) : ('dewed' as const) }
                      : fullness(1, 1))}
                    size={12}
                  />
                  <span>
                    {r.title} {r.findings > 0 && <Bad>{r.findings}</Bad>} {waived.has(r.id) && <Faded>waived</Faded>}
                  </span>
                </li>
              ))}
            </Rules>
          </Fragment>
        ))}
      </section>
    </Sheet>
  );
}
const Sheet = styled.div`
  display: flex;
  flex-direction: column;
  gap: 18px;
  padding: 14px 0;
  max-width: 1080px;
  table {
    border-collapse: collapse;
    font-size: 13px;
    width: 100%;
    margin-top: 6px;
  }
  th {
    font-weight: 400;
    text-align: left;
    color: ${token('faded')};
  }
  th,
  td {
    padding: 4px 8px 4px 0;
    border-top: 1px solid ${token('rule-soft')};
  }
  td {
    text-align: right;
  }
  tr.moved td:last-child {
    color: ${token('lapis')};
    font-weight: 600;
  }
`;
const FindingItem = styled.li<{ $bad: boolean }>`
  display: flex;
  gap: 11px;
  padding: 10px 14px;
  margin-bottom: 8px;
  background: ${(p) => token(p.$bad ? 'madder-wash' : 'ochre-wash')};
  border-left: 3px solid ${(p) => token(p.$bad ? 'madder' : 'ochre')};
  .cure {
    font-weight: 600;
  }
  small {
    color: ${token('ink')};
    font-size: 12px;
  }
`;
const Two = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 32px;
  .switches li {
    display: grid;
    grid-template-columns: 104px 1fr auto;
    gap: 10px;
    align-items: center;
    border-top: 1px solid ${token('rule-soft')};
    padding: 3px 0;
    font-size: 13px;
  }
  .switches {
    margin-top: 6px;
  }
  .bar {
    display: flex;
    gap: 1px;
    height: 6px;
  }
  .bar i {
    background: ${token('lapis')};
  }
  .bar u {
    background: ${token('madder')};
  }
`;
/** Second in rank, right below the page's own, though small. */
const Scope = styled.h2`
  font: 600 13px/1.3 ${sans};
  color: ${token('faded')};
  margin-top: 12px;
`;
const Rules = styled.ul`
  columns: 2;
  column-gap: 32px;
  margin-top: 4px;
  font-size: 13px;
  li {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 2px 0;
    break-inside: avoid;
  }
`;
