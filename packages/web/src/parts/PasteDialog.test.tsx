// @vitest-environment jsdom
import '../testing/setup.ts';
import type { Edit, PastedEdits } from '@anthemion/core';
import { render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { describe, expect, test, vi } from 'vitest';
import { PasteDialog } from './PasteDialog.tsx';

const clear = (seat: string): Edit => ({ kind: 'clearSeat', seat });
const good = (line: number) => ({ line, edits: [clear(`leaf-${line}`)], sentence: `Leave leaf-${line}`, findings: [] });
const bad = (line: number) => ({
  line,
  edits: [],
  sentence: 'leaf-99',
  findings: [{ rule: 'x', severity: 'error' as const, message: 'There is no seat leaf-99.', cure: 'Write another.' }],
});

describe('promise 11: what is pasted is shown before it is made', () => {
  test('a line that is not sound comes first, with its cure, and nothing can be made', async () => {
    const make = vi.fn(() => Promise.resolve(null));
    const pasted: PastedEdits = { lines: [good(1), bad(2)], unknown: ['Colour'] };
    render(<PasteDialog pasted={pasted} onMake={make} onClose={() => undefined} />);
    const [first] = within(screen.getByRole('list', { name: 'Pasted lines' })).getAllByRole('listitem');
    expect(first!.textContent).toContain('There is no seat leaf-99. Write another.');
    expect(screen.getByText(/no such column is known here: Colour/)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Make the edit' }));
    expect(make).not.toHaveBeenCalled();
  });

  test('sound lines are made together; what the server refuses is said and stays open', async () => {
    const close = vi.fn();
    const make = vi
      .fn<(edits: readonly Edit[]) => Promise<{ findings: []; detail: string } | null>>()
      .mockResolvedValueOnce({ findings: [], detail: 'The server does not answer.' })
      .mockResolvedValueOnce(null);
    render(<PasteDialog pasted={{ lines: [good(1), good(2)], unknown: [] }} onMake={make} onClose={close} />);
    await userEvent.click(screen.getByRole('button', { name: 'Make 2 edits' }));
    await screen.findByText('The server does not answer.');
    expect(close).not.toHaveBeenCalled();
    await userEvent.click(screen.getByRole('button', { name: 'Make 2 edits' }));
    expect(make).toHaveBeenLastCalledWith([clear('leaf-1'), clear('leaf-2')]);
    expect(close).toHaveBeenCalledOnce();
  });

  test('of very many lines some are drawn and the others counted', () => {
    const lines = Array.from({ length: 500 }, (_, i) => good(i + 1));
    render(
      <PasteDialog pasted={{ lines, unknown: [] }} onMake={() => Promise.resolve(null)} onClose={() => undefined} />,
    );
    expect(screen.getAllByRole('listitem').length).toBeLessThan(300);
    expect(screen.getByText('And 300 more lines.')).toBeTruthy();
  });
});
