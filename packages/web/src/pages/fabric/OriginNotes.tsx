import { Link } from 'react-router';
import { type Origin } from '@anthemion/core';
import { mono } from '../../parts/theme.ts';
import { Cap, Copyable, Faded, Facts, H3, Mono } from '../../parts/basics.tsx';
import type { FabricStateAnswer } from '@anthemion/contract';
import { subjectLead } from '../../parts/subjectLead.ts';

/** Why a line of the meant text is there: what caused it, its value and pool, the edit that brought it. */
export function OriginNotes({
  dialect,
  fabric,
  file,
  line,
  text,
  origin,
  sameValue,
}: {
  /** What the text is written in; null = not known. */
  readonly dialect: string | null;
  readonly fabric: FabricStateAnswer;
  readonly file: string;
  /** Null = no line is chosen. */
  readonly line: number | null;
  readonly text: string;
  readonly origin: Origin | null;
  /** Lines of the switch that the same value makes. */
  readonly sameValue: number;
}) {
  const lead = origin && subjectLead(fabric.name, origin.subject);
  return (
    <>
      {line === null ? (
        <>
          <Cap>Why is a line here</Cap>
          <Faded>Put the cursor on a line of the meant text: what caused it is told here.</Faded>
        </>
      ) : (
        <>
          <Cap>Line {line} · why is it here</Cap>
          <H3 style={{ font: `600 13px ${mono}`, overflowWrap: 'anywhere' }}>{text || 'an empty line'}</H3>
          {origin ? (
            <Facts>
              <dt>Because of</dt>
              <dd>{origin.label}</dd>
              {origin.value && (
                <>
                  <dt>Value</dt>
                  <dd>
                    <Mono>{origin.value.text}</Mono>
                  </dd>
                  <dt>{origin.value.pool ? 'Drawn from' : 'Chosen'}</dt>
                  <dd>
                    {origin.value.pool ? (
                      <Link to={`/pools/${origin.value.pool}`}>{origin.value.pool}</Link>
                    ) : (
                      'from no pool'
                    )}
                  </dd>
                </>
              )}
              <dt>Edit</dt>
              <dd>{origin.edit ? `${origin.edit.number} of this change` : `revision ${fabric.revision}`}</dd>
              <dt>Text by</dt>
              <dd>{dialect === null ? file : `${dialect} / ${file}`}</dd>
            </Facts>
          ) : (
            <Faded>
              {text.startsWith('#') || text.startsWith('!') || text === ''
                ? 'It says nothing to the switch.'
                : 'It closes a block.'}
            </Faded>
          )}
          {origin?.edit && <p>{origin.edit.sentence}</p>}
          {sameValue > 1 && <Faded>The same value makes {sameValue - 1} more lines on this switch.</Faded>}
          <Copyable text={text}>
            <span>Copy the line</span>
          </Copyable>
          {lead && <Link to={lead.to}>Go {lead.text}</Link>}
        </>
      )}
    </>
  );
}
