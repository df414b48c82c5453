import type { Seat } from '@anthemion/core';
import { useMemo } from 'react';
import { healthMood } from '../../parts/moods.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { useFabricView } from './FabricFrame.tsx';
import { SwitchColumn, type SwitchLine } from './SwitchColumn.tsx';

/** The switches of a fabric beside their text, with what a change or a hand did to each. */
export function SwitchList({
  seats,
  seat,
  onGo,
}: {
  readonly seats: readonly Seat[];
  /** The one whose text is shown. */
  readonly seat: string;
  readonly onGo: () => void;
}) {
  const { fabric, change, proof, stands } = useFabricView();
  const touched = useMemo(() => new Map((proof?.switches ?? []).map((s) => [s.seat, s])), [proof]);
  const lines = useMemo(
    () =>
      seats.map((s): SwitchLine => {
        const t = touched.get(s.id);
        const state = stands.get(s.id);
        const waits = change !== null && t !== undefined && t.fate !== 'same';
        const mood = waits ? 'dewed' : state?.serial == null ? 'bud' : healthMood[state.standing];
        return {
          seat: s.id,
          host: s.host,
          mark: <StateMark mood={mood} size={12} />,
          note: waits ? `+${t.added} −${t.removed}` : state?.health === 'drifted' ? 'drifted' : '',
          to: `/fabrics/${fabric.name}/text/${s.id}`,
        };
      }),
    [seats, touched, stands, change, fabric.name],
  );
  return <SwitchColumn lines={lines} seat={seat} onGo={onGo} />;
}
