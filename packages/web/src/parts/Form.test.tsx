// @vitest-environment jsdom
import '../testing/setup.ts';
import { fabricRequest, type FabricRequest } from '@anthemion/contract';
import { render, screen, waitFor } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { object } from 'yup';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { fieldOf, Form, ParsedField, TextField, useFormPart, type NotTaken } from './Form.tsx';

beforeEach(() => sessionStorage.clear());

function Fabric({
  send,
  ends,
}: {
  readonly send: (values: FabricRequest) => Promise<NotTaken | null>;
  readonly ends?: () => void;
}) {
  const part = useFormPart<FabricRequest>({
    schema: fabricRequest,
    initial: { name: '', namePrefix: '', title: '' },
    keep: 'a fabric',
    base: '/edits/0/fabric',
  });
  return (
    <Form part={part} onSend={send} {...(ends ? { onEnd: ends } : {})} buttons={<button type="submit">Begin</button>}>
      <TextField name="name" label="Name" />
      <TextField name="namePrefix" label="Prefix" />
    </Form>
  );
}
const name = () => screen.getByRole<HTMLInputElement>('textbox', { name: 'Name' });

describe('promise 11: the form part', () => {
  test('says what is wrong at the field as it is left, by the contract’s schema, and sends nothing unsound', async () => {
    const send = vi.fn(() => Promise.resolve(null));
    render(<Fabric send={send} />);
    await userEvent.type(name(), 'Holm!');
    expect(screen.queryByText(/lower-case letters/)).toBeNull();
    await userEvent.tab();
    await screen.findByText('a fabric name is 2–20 lower-case letters, digits, hyphens');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await screen.findByText('the prefix is 1–8 lower-case letters or digits');
    expect(send).not.toHaveBeenCalled();
    expect(name().value).toBe('Holm!');
  });

  test('what the server refuses stands at the field its pointer names; the rest at the foot; nothing typed is lost', async () => {
    const send = (): Promise<NotTaken> =>
      Promise.resolve({
        detail: 'Something is wrong',
        findings: [
          {
            rule: 'x',
            severity: 'error',
            path: '/edits/0/fabric/name',
            message: 'There is already a fabric holm.',
            cure: 'Choose another name.',
          },
          { rule: 'y', severity: 'error', path: '/elsewhere', message: 'The house is on fire.' },
        ],
      });
    render(<Fabric send={send} />);
    await userEvent.type(name(), 'holm');
    await userEvent.type(screen.getByRole('textbox', { name: 'Prefix' }), 'ho');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await screen.findByText('There is already a fabric holm. Choose another name.');
    expect(name().getAttribute('aria-invalid')).toBe('true');
    expect(screen.getByRole('alert').textContent).toContain('The house is on fire.');
    expect(name().value).toBe('holm');
  });

  test('promise 11: a second click while it is sent sends nothing more; when it came back refused, it can be sent again', async () => {
    const answers: ((no: NotTaken | null) => void)[] = [];
    const send = vi.fn(() => new Promise<NotTaken | null>((answer) => answers.push(answer)));
    render(<Fabric send={send} />);
    await userEvent.type(name(), 'holm');
    await userEvent.type(screen.getByRole('textbox', { name: 'Prefix' }), 'ho');
    await userEvent.dblClick(screen.getByRole('button', { name: 'Begin' }));
    await userEvent.keyboard('{Enter}');
    await waitFor(() => expect(send).toHaveBeenCalled());
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    expect(send).toHaveBeenCalledTimes(1);
    answers[0]!({ detail: 'The server does not answer.', findings: [] });
    await screen.findByText('The server does not answer.');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await waitFor(() => expect(send).toHaveBeenCalledTimes(2));
  });

  test('promise 11: a second click after it was taken, while the form goes away, sends nothing more; what is typed then does', async () => {
    const [send, ends] = [vi.fn(() => Promise.resolve(null)), vi.fn()];
    render(<Fabric send={send} ends={ends} />);
    await userEvent.type(name(), 'holm');
    await userEvent.type(screen.getByRole('textbox', { name: 'Prefix' }), 'ho');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await waitFor(() => expect(ends).toHaveBeenCalledTimes(1));
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    expect(send).toHaveBeenCalledTimes(1);
    await userEvent.type(name(), 'm');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await waitFor(() => expect(send).toHaveBeenCalledTimes(2));
  });

  test('a call that nobody answered is said for the whole form', async () => {
    render(<Fabric send={() => Promise.resolve({ detail: 'The server does not answer.', findings: [] })} />);
    await userEvent.type(name(), 'holm');
    await userEvent.type(screen.getByRole('textbox', { name: 'Prefix' }), 'ho');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await screen.findByText('The server does not answer.');
  });

  test('what was typed is there again after the page was left, until it is taken', async () => {
    const { unmount } = render(<Fabric send={() => Promise.resolve(null)} />);
    await userEvent.type(name(), 'holm');
    unmount();
    const again = render(<Fabric send={() => Promise.resolve(null)} />);
    expect(name().value).toBe('holm');
    await userEvent.type(screen.getByRole('textbox', { name: 'Prefix' }), 'ho');
    await userEvent.click(screen.getByRole('button', { name: 'Begin' }));
    await waitFor(() => expect(sessionStorage.length).toBe(0));
    again.unmount();
    render(<Fabric send={() => Promise.resolve(null)} />);
    expect(name().value).toBe('');
  });

  test('promise 7: what a colleague changes meanwhile shows in the fields that were not typed in', async () => {
    const Shown = (now: FabricRequest) => {
      const part = useFormPart<FabricRequest>({ schema: fabricRequest, initial: now });
      return (
        <Form part={part} onSend={() => Promise.resolve(null)} buttons={null}>
          <TextField name="name" label="Name" />
          <TextField name="title" label="Title" />
        </Form>
      );
    };
    const { rerender } = render(<Shown name="holm" namePrefix="ho" title="" />);
    await userEvent.type(name(), '-two');
    rerender(<Shown name="holm-one" namePrefix="ho" title="Both halls" />);
    expect(name().value).toBe('holm-two');
    await waitFor(() =>
      expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Title' }).value).toBe('Both halls'),
    );
  });

  test('what was taken follows what comes of it: undone, the form has what was there before', async () => {
    const racks = (text: string) => text.split(',').filter(Boolean).map(Number);
    const Shown = (now: { title: string; racks: number[] }) => {
      const part = useFormPart<typeof now>({ schema: object(), initial: now });
      return (
        <Form part={part} onSend={() => Promise.resolve(null)} buttons={<button type="submit">Change</button>}>
          <TextField name="title" label="Title" />
          <ParsedField name="racks" label="Racks" parse={racks} show={(v: number[]) => v.join(', ')} bad="" />
        </Form>
      );
    };
    const of = (label: string) => screen.getByRole<HTMLInputElement>('textbox', { name: label });
    const { rerender } = render(<Shown title="Hall" racks={[1]} />);
    await userEvent.type(of('Title'), 's');
    await userEvent.type(of('Racks'), ',2');
    await userEvent.click(screen.getByRole('button', { name: 'Change' }));
    rerender(<Shown title="Halls" racks={[1, 2]} />);
    await waitFor(() => expect([of('Title').value, of('Racks').value]).toEqual(['Halls', '1,2']));
    rerender(<Shown title="Hall" racks={[1]} />);
    await waitFor(() => expect([of('Title').value, of('Racks').value]).toEqual(['Hall', '1']));
  });

  test('a text that stands for a list is read as one types, and says how it is written', async () => {
    const sent = vi.fn(() => Promise.resolve(null));
    const Racks = () => {
      const part = useFormPart<{ racks: number[] }>({ schema: fabricRequest, initial: { racks: [1, 2] } });
      return (
        <Form part={part} onSend={sent} buttons={null}>
          <ParsedField
            name="racks"
            label="Racks"
            parse={(t) => (/^[\d, ]*$/.test(t) ? t.split(',').filter(Boolean).map(Number) : null)}
            show={(v: number[]) => v.join(', ')}
            bad="Write numbers."
          />
        </Form>
      );
    };
    render(<Racks />);
    const box = screen.getByRole<HTMLInputElement>('textbox', { name: 'Racks' });
    expect(box.value).toBe('1, 2');
    await userEvent.type(box, ', x');
    await screen.findByText('Write numbers.');
    expect(box.value).toBe('1, 2, x');
  });

  test('pointers become fields below the base only', () => {
    expect(fieldOf('/edits/0/network/vlan', '/edits/0/network')).toBe('vlan');
    expect(fieldOf('/edits/1/network/vlan', '/edits/0/network')).toBeNull();
    expect(fieldOf('/ranges/0')).toBe('ranges.0');
    expect(fieldOf(undefined)).toBeNull();
  });
});
