// @vitest-environment jsdom
import '../testing/setup.ts';
import { fireEvent, render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { DataTable, type TableColumn } from './DataTable.tsx';

interface Port {
  readonly name: string;
  readonly vlan: number;
  readonly state: string;
}
const PORTS: readonly Port[] = Array.from({ length: 200 }, (_, i) => ({
  name: `p${i + 1}`,
  vlan: 100 + (i % 7),
  state: i % 10 === 3 ? 'drifted' : 'as meant',
}));
const COLUMNS: readonly TableColumn<Port>[] = [
  { id: 'name', title: 'Port', text: (p) => p.name },
  { id: 'vlan', title: 'VLAN', text: (p) => p.vlan, right: true },
  { id: 'state', title: 'State', text: (p) => p.state },
];
const table = (more: Partial<Parameters<typeof DataTable<Port>>[0]> = {}) =>
  render(<DataTable label="Ports" rows={PORTS} columns={COLUMNS} rowKey={(p) => p.name} {...more} />);
/** First cells of the rows that are drawn, top down. */
const names = (): string[] => screen.getAllByRole('rowheader').map((c) => c.textContent ?? '');

beforeEach(() => localStorage.clear());

describe('the table part', () => {
  test('draws some of many rows, says how many there are, and sorts as engineers read', async () => {
    table();
    expect(names().length).toBeLessThan(60);
    expect(names().slice(0, 3)).toEqual(['p1', 'p2', 'p3']);
    expect(screen.getByText('200')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Port' }));
    await userEvent.click(screen.getByRole('button', { name: /^Port/ }));
    expect(names()[0]).toBe('p200');
    expect(screen.getByRole('columnheader', { name: /Port/ }).getAttribute('aria-sort')).toBe('descending');
  });

  test('is filtered by what is typed, and completes it', async () => {
    table();
    const box = screen.getByRole('combobox', { name: 'Filter Ports' });
    await userEvent.type(box, 'sta');
    await userEvent.keyboard('{Tab}');
    expect((box as HTMLInputElement).value).toBe('state:');
    await userEvent.type(box, 'd');
    await userEvent.keyboard('{ArrowDown}{Enter}');
    expect((box as HTMLInputElement).value).toBe('state:drifted ');
    expect(screen.getByText('20 of 200')).toBeTruthy();
    await userEvent.keyboard('{Escape}');
    expect(screen.getByText('200')).toBeTruthy();
  });

  test('rows are picked together, with a range, and the bar acts on them', async () => {
    const act = vi.fn();
    table({ bulk: (picked) => <button onClick={() => act(picked.map((p) => p.name))}>Shut</button> });
    await userEvent.click(await screen.findByRole('checkbox', { name: 'Pick p2' }));
    const user = userEvent.setup();
    await user.keyboard('{Shift>}');
    await user.click(screen.getByRole('rowheader', { name: 'p5' }));
    await user.keyboard('{/Shift}');
    const bar = screen.getByRole('toolbar', { name: 'For the picked ports' });
    expect(within(bar).getByText('4 picked')).toBeTruthy();
    await userEvent.click(within(bar).getByRole('button', { name: 'Shut' }));
    expect(act).toHaveBeenCalledWith(['p2', 'p3', 'p4', 'p5']);
    await userEvent.click(within(bar).getByRole('button', { name: 'Pick none' }));
    expect(screen.queryByRole('toolbar')).toBeNull();
  });

  test('is walked and picked with keys alone', async () => {
    const open = vi.fn();
    table({ onSelect: (p) => open(p.name), bulk: () => null });
    const row = (await screen.findByRole('rowheader', { name: 'p1' })).closest('tr')!;
    row.focus();
    await userEvent.keyboard('{Enter}');
    expect(open).toHaveBeenCalledWith('p1');
    await userEvent.keyboard(' ');
    expect(row.getAttribute('aria-selected')).toBe('true');
    await userEvent.keyboard('{Control>}a{/Control}');
    expect(screen.getByText('200 picked')).toBeTruthy();
  });

  test('columns that are hidden or resized stay so', async () => {
    const { unmount } = table();
    await userEvent.click(screen.getByRole('button', { name: 'Columns of Ports' }));
    await userEvent.click(screen.getByRole('checkbox', { name: 'VLAN' }));
    await userEvent.keyboard('{Escape}');
    screen.getByRole('button', { name: 'State' }).focus();
    await userEvent.keyboard('{Alt>}{ArrowRight}{/Alt}');
    unmount();
    table();
    expect(screen.getAllByRole('columnheader').map((h) => h.textContent)).toEqual(['Port', 'State']);
    const kept = JSON.parse(localStorage.getItem('anthemion-table Ports')!) as { widths: Record<string, number> };
    expect(kept.widths['state']).toBe(816);
  });

  test('cells of a spreadsheet are pasted in; one word is not taken for cells', () => {
    const paste = vi.fn();
    table({ onPaste: paste });
    const region = screen.getByRole('region', { name: 'Ports' });
    fireEvent.paste(region, { clipboardData: { getData: () => 'p1\techo-801\np2\techo-802' } });
    expect(paste).toHaveBeenCalledWith([
      ['p1', 'echo-801'],
      ['p2', 'echo-802'],
    ]);
    fireEvent.paste(region, { clipboardData: { getData: () => 'echo' } });
    expect(paste).toHaveBeenCalledTimes(1);
  });

  test('an empty table teaches', () => {
    table({ rows: [], empty: <p>Nothing is connected yet</p> });
    expect(screen.getByText('Nothing is connected yet')).toBeTruthy();
  });
});
