import { styled } from 'styled-components';
import { token } from '../../../parts/theme.ts';

/** What every shape and colour of the picture means. */
export function Legend({
  above,
  grouped,
  gates,
  show,
  findings,
}: {
  /** What is above the racks, in words; empty = nothing. */
  readonly above: string;
  readonly grouped: boolean;
  /** Is there a switch that meets something outside? */
  readonly gates: boolean;
  readonly show: 'change' | 'state';
  readonly findings: number;
}) {
  const keys: readonly (readonly [look: string, words: string])[] = [
    ...(above === '' ? [] : ([['spine', above]] as const)),
    ...(grouped
      ? ([
          ['petal', 'group of racks'],
          ['seed', 'leaf'],
        ] as const)
      : ([
          ['petal', 'rack'],
          ['leaf', 'leaf'],
          ...(gates ? ([['gate', 'border, gateway']] as const) : []),
          ['leaf dashed', 'seat empty'],
        ] as const)),
    ...(show === 'state'
      ? ([
          ['dot as-meant', 'as meant'],
          ['dot waiting', 'waiting'],
          ['dot drifted', 'drifted'],
          ['dot unread', 'unread'],
          ['dot out', 'drained or out'],
        ] as const)
      : ([['dot waiting', 'the change touches it']] as const)),
    ['line', grouped ? 'links' : 'link up'],
    ['line down', 'wrong'],
    ['line unread', 'unread'],
    ...(findings > 0 ? ([['leaf bad', findings === 1 ? 'a finding' : `${findings} with findings`]] as const) : []),
  ];
  return (
    <Key aria-label="Legend">
      {keys.map(([look, words]) => (
        <span key={look}>
          <i className={look} /> {words}
        </span>
      ))}
    </Key>
  );
}
const Key = styled.span`
  margin-left: auto;
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 3px 13px;
  align-items: center;
  > span {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    white-space: nowrap;
  }
  i {
    width: 10px;
    height: 10px;
    border: 1.5px solid ${token('ink')};
    display: inline-block;
    flex: none;
  }
  i.spine {
    transform: rotate(45deg) scale(0.85);
  }
  i.leaf,
  i.dot,
  i.seed {
    border-radius: 50%;
    border-color: ${token('faded')};
  }
  i.gate {
    border-radius: 50% 50% 0 0;
    border-color: ${token('faded')};
  }
  i.petal {
    border-radius: 90% 10% 90% 10%;
    transform: rotate(45deg) scale(0.9);
    border-color: ${token('link')};
  }
  i.seed {
    width: 6px;
    height: 6px;
    background: ${token('faded')};
  }
  i.dashed {
    border-style: dashed;
  }
  i.as-meant {
    border-color: ${token('verdigris')};
    background: ${token('verdigris-wash')};
  }
  i.waiting {
    border-color: ${token('ochre')};
    background: ${token('ochre-wash')};
  }
  i.drifted {
    border-color: ${token('madder')};
    background: ${token('madder-wash')};
  }
  i.out {
    border-color: ${token('plum')};
  }
  i.bad {
    border-color: ${token('madder')};
    border-width: 2.4px;
  }
  i.line {
    width: 18px;
    height: 0;
    border: 0;
    border-top: 1.5px solid ${token('link')};
  }
  i.line.down {
    border-top: 2px dashed ${token('madder')};
  }
  i.line.unread {
    border-top: 1.5px dotted ${token('faded')};
  }
`;
