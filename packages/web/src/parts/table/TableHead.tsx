import type { MouseEvent } from 'react';
import { Tick } from '../Tick.tsx';

const RESIZE_STEP = 16;

interface Head {
  readonly id: string;
  readonly column: { readonly id: string; readonly title: string; readonly right?: boolean };
  readonly sorted: false | 'asc' | 'desc';
  readonly onSort: () => void;
  readonly onResize: (e: MouseEvent) => void;
}
interface Props {
  readonly heads: readonly Head[];
  /** Absent = rows cannot be picked. */
  readonly allPicked?: boolean;
  readonly onPickAll?: (on: boolean) => void;
  readonly onWiden: (column: string, by: number) => void;
  readonly onReset: () => void;
}

/** The headings: sorted by a press, resized at their edge or by Alt and an arrow. */
export function TableHead({ heads, allPicked, onPickAll, onWiden, onReset }: Props) {
  return (
    <thead>
      <tr>
        {onPickAll && (
          <th scope="col" className="pick">
            <Tick hideLabel label="Pick all that are shown" value={allPicked ?? false} onChange={onPickAll} />
          </th>
        )}
        {heads.map(({ id, column, sorted, onSort, onResize }) => (
          <th
            key={id}
            scope="col"
            data-column={column.id}
            className={column.right ? 'right' : ''}
            aria-sort={sorted === false ? 'none' : sorted === 'desc' ? 'descending' : 'ascending'}
          >
            <button
              onClick={onSort}
              onKeyDown={(e) => {
                const by = { ArrowLeft: -RESIZE_STEP, ArrowRight: RESIZE_STEP }[e.key];
                if (!e.altKey || by === undefined) return;
                e.preventDefault();
                onWiden(column.id, by);
              }}
            >
              {column.title}
              {sorted === false ? '' : sorted === 'desc' ? ' ↓' : ' ↑'}
            </button>
            <span className="grip" aria-hidden onMouseDown={onResize} onDoubleClick={onReset} />
          </th>
        ))}
      </tr>
    </thead>
  );
}
