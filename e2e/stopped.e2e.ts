import type { ChangeAnswer, FabricStateAnswer, RolloutAnswer } from '@anthemion/contract';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { signIn, startDemo, type Demo } from './demo.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

/** A call of the API as the person of the page. */
const call = <T>(page: Page, method: string, path: string, body: unknown = {}, version?: number): Promise<T> =>
  page.evaluate(
    async ([m, p, b, v]) => {
      const answer = await fetch(p as string, {
        method: m as string,
        headers: { 'content-type': 'application/json', ...(v === null ? {} : { 'if-match': `"${v as number}"` }) },
        ...(m === 'GET' ? {} : { body: JSON.stringify(b) }),
      });
      if (!answer.ok) throw new Error(await answer.text());
      return answer.json() as Promise<unknown>;
    },
    [method, path, body, version ?? null],
  ) as Promise<T>;

async function approved(ines: Page, bo: Page, title: string, vlan: number, racks: number[]): Promise<string> {
  const { id } = await call<ChangeAnswer>(ines, 'POST', '/api/changes', {
    fabric: 'skerry',
    title,
    reason: '',
    ticket: '',
  });
  const edit = { kind: 'addNetwork', network: { name: `net-${vlan}`, vrf: 'tides', vlan, subnetLength: 24, racks } };
  const { version } = await call<ChangeAnswer>(ines, 'POST', `/api/changes/${id}/edits`, { edits: [edit] });
  await call(bo, 'POST', `/api/changes/${id}/approve`, {}, version);
  return id;
}

test('a stopped rollout: an urgent change breaks in; the other is proved again, closed as it stands, and caught up', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const { page: bo } = await signIn(demo, 'bo');
  const { seats } = await call<FabricStateAnswer>(page, 'GET', '/api/fabrics/skerry');
  const serial = (seat: string): string => seats.find((s) => s.seat === seat)!.serial!;
  const fault = (on: boolean) =>
    call(page, 'POST', '/api/bench/faults', { serial: serial('leaf-4'), fault: 'refuses the text', on });
  const runs = (seat: string, vlan: number): boolean =>
    demo.running(serial(seat), 'interfaces').includes(`iface vlan${vlan}`);

  const half = await approved(page, bo, 'Half a night', 940, [3, 4]);
  await fault(true);
  await page.goto(`${demo.url}/changes/${half}`);
  await page.getByRole('button', { name: 'Roll out …' }).click();
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByRole('heading', { name: 'Stopped' }).waitFor();
  const stopped = page.url();
  expect([runs('leaf-3', 940), runs('leaf-4', 940)]).toEqual([true, false]);

  // The fabric says what is in the way; an urgent change may go first, with a reason.
  await page.goto(`${demo.url}/fabrics/skerry`);
  await page.getByRole('link', { name: 'A rollout is not finished' }).waitFor();
  const urgent = await approved(page, bo, 'Gauges are blind', 941, [3]);
  await page.goto(`${demo.url}/changes/${urgent}`);
  await page.getByRole('button', { name: 'Roll out …' }).click();
  await page.getByText('nothing else of skerry goes live').waitFor();
  expect(await page.getByRole('button', { name: 'Begin now' }).isDisabled()).toBe(true);
  await page.getByText('Break in', { exact: true }).click();
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByText('Breaking in takes a reason.').waitFor();
  await page.getByRole('textbox', { name: 'Reason' }).fill('the gauges are blind');
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByRole('heading', { name: 'Rolled out' }).waitFor();
  expect([runs('leaf-3', 940), runs('leaf-3', 941)]).toEqual([true, true]);

  // The overtaken one offers no way on but a new proof; with that and a new yes it goes on.
  await page.goto(stopped);
  await page
    .getByText(/broke in with rollout/)
    .first()
    .waitFor();
  expect(await page.getByRole('button', { name: /Retry|Go on|Close/ }).count()).toBe(0);
  await page.goto(`${demo.url}/changes/${half}`);
  await page
    .getByRole('main')
    .getByRole('button', { name: 'Prove again' })
    .or(page.getByRole('complementary', { name: 'Approval' }).getByRole('button', { name: 'Prove again' }))
    .first()
    .click();
  await page.getByText('must approve it').waitFor();
  await bo.goto(page.url());
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await bo.getByRole('heading', { name: 'Approved' }).waitFor();
  await page.getByRole('button', { name: 'Roll out …' }).click();
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByRole('heading', { name: 'Stopped' }).waitFor();

  // It still refuses: closed as it stands, the change is live and the switch waits.
  await page.getByRole('button', { name: 'Close as it stands …' }).click();
  await page.getByRole('dialog').getByRole('textbox', { name: 'Reason' }).fill('rack 4 gets a new switch tomorrow');
  await page.getByRole('dialog').getByRole('button', { name: 'Close it' }).click();
  await page.getByRole('heading', { name: 'Closed as it stood' }).waitFor();
  await page.goto(`${demo.url}/fabrics/skerry`);
  await page.getByText('1 switch has not got revision 3: sk-lf-04').waitFor();
  await fault(false);
  await page.getByRole('button', { name: 'Send it now' }).click();
  await page.getByRole('heading', { name: 'Rolled out' }).waitFor();
  expect(runs('leaf-4', 940)).toBe(true);
  const now = await call<RolloutAnswer>(page, 'GET', `/api${new URL(page.url()).pathname}`);
  expect([now.kind, now.state, now.switches.map((s) => s.host)]).toEqual(['catch up', 'done', ['sk-lf-04']]);
  expect(errors).toEqual([]);
});
