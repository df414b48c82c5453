import { ownedOf, withOwned } from '@anthemion/core';
import { existsSync, mkdirSync, readFileSync, readlinkSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { HelperRig, MORE, newText, OLD } from '../testing/helperRig.ts';

let rig: HelperRig;
beforeEach(() => {
  rig = new HelperRig();
});
afterEach(() => rig.close());

describe('the apply helper', () => {
  test('applies, waits to be confirmed, and keeps what was confirmed', async () => {
    rig.send('r1');
    expect(rig.run('check', 'r1')).toEqual({ code: 0, text: 'fit to load' });
    expect(rig.run('apply', 'r1', '600').code).toBe(0);
    expect([rig.running(), rig.state()]).toEqual([newText('r1'), 'pending r1']);
    expect(rig.run('status').text).toMatch(/^pending r1 (59\d|600)$/);
    expect(rig.run('confirm', 'r1').text).toBe('confirmed');
    expect(rig.run('confirm', 'r1').text).toBe('already confirmed');
    await new Promise((done) => setTimeout(done, 1500));
    expect([rig.running(), rig.state()]).toEqual([newText('r1'), 'confirmed r1']);
  });
  test('told the same twice, it does it once', () => {
    rig.send('r1');
    rig.run('apply', 'r1', '600');
    expect(rig.run('apply', 'r1', '600').text).toBe('already pending');
    expect(readFileSync(join(rig.folder, 'calls'), 'utf8').match(/ifreload/g)).toHaveLength(1);
    expect(readFileSync(join(rig.home, 'applied'), 'utf8').trim()).toBe('r1');
  });
  test('promise 4: not confirmed in time, it goes back by itself', async () => {
    rig.send('r1');
    rig.run('apply', 'r1', '1');
    expect(rig.running()).toEqual(newText('r1'));
    expect(await rig.settled()).toBe('undone r1');
    expect([rig.running(), rig.disk()]).toEqual([OLD, OLD]);
    expect(rig.run('confirm', 'r1').code).toBe(4);
  });
  test('undo goes back at once, from confirmed too; a second undo says so', () => {
    rig.send('r1');
    rig.run('apply', 'r1', '600');
    expect(rig.run('undo', 'r1').text).toBe('undone');
    expect(rig.run('undo', 'r1').text).toBe('already undone');
    expect(rig.running()).toEqual(OLD);
    rig.send('r2');
    rig.run('apply', 'r2', '600');
    rig.run('confirm', 'r2');
    expect(rig.run('undo', 'r2').text).toBe('undone');
    expect(rig.running()).toEqual(OLD);
  });
  test('text the switch refuses is not loaded; a load that fails is taken back, with its words', () => {
    rig.send('r1');
    rig.command('vtysh', 'echo "line 7: no such thing"; exit 1');
    expect(rig.run('check', 'r1')).toEqual({ code: 3, text: 'frr.conf: line 7: no such thing' });
    rig.loads({ failures: 1 });
    expect(rig.run('apply', 'r1', '600')).toEqual({
      code: 5,
      text: expect.stringContaining('the switch is as before: cannot load') as string,
    });
    expect([rig.running(), rig.disk(), rig.state()]).toEqual([OLD, OLD, 'undone r1']);
  });
  test.each([
    [
      'a template line',
      { ...newText('r1'), interfaces: 'auto p1\n% import os\n' },
      /interfaces: line 2: .*run as code/,
    ],
    ['an expression', { ...newText('r1'), interfaces: 'alias ${x}\n' }, /run as code/],
    ['a NUL', { ...newText('r1'), 'frr.conf': 'host\u0000name\n' }, /frr.conf: holds control characters/],
    ['a bare CR', { ...newText('r1'), interfaces: 'alias a\rup reboot\n' }, /holds control characters/],
  ])('%s is refused before any program reads it, by check and by apply', (_what, files, says) => {
    rig.send('r1', files);
    rig.command('ifup', `touch "${rig.folder}/read"`);
    for (const command of [
      ['check', 'r1'],
      ['apply', 'r1', '60'],
    ])
      expect(rig.run(...command)).toMatchObject({ code: 3, text: expect.stringMatching(says) as string });
    expect(existsSync(join(rig.folder, 'read'))).toBe(false);
    expect([rig.running(), rig.state()]).toEqual([OLD, 'none -']);
  });
  test('what was sent in part is not loaded', () => {
    rig.send('r1');
    writeFileSync(join(rig.home, 'r1/frr.conf'), 'new fr');
    expect(rig.run('apply', 'r1', '60')).toMatchObject({
      code: 3,
      text: expect.stringContaining('not whole') as string,
    });
    expect(rig.running()).toEqual(OLD);
  });
  describe('any set of documents', () => {
    const LIST = `interfaces /etc/network/interfaces\nfrr.conf /etc/frr/frr.conf\n${MORE.name} ${MORE.path}\n`;
    const three = (id: string) => ({ ...newText(id), [MORE.name]: `limit ${id}\n` });

    test('is one apply with one undo; one that was not there before is gone again', async () => {
      rig.send('r1', three('r1'), LIST);
      expect(rig.run('check', 'r1').code).toBe(0);
      expect(rig.run('apply', 'r1', '600').code).toBe(0);
      expect([rig.disk(), rig.more()]).toEqual([newText('r1'), 'limit r1\n']);
      rig.run('undo', 'r1');
      expect([rig.disk(), rig.running(), rig.more()]).toEqual([OLD, OLD, null]);
      // Confirmed it stays, and the next one that is not confirmed goes back to it.
      rig.send('r2', three('r2'), LIST);
      rig.run('apply', 'r2', '600');
      rig.run('confirm', 'r2');
      rig.send('r3', three('r3'), LIST);
      rig.run('apply', 'r3', '1');
      expect(rig.more()).toBe('limit r3\n');
      expect(await rig.settled()).toBe('undone r3');
      expect([rig.disk(), rig.more()]).toEqual([newText('r2'), 'limit r2\n']);
    });

    test('a load that fails takes all of them back', () => {
      rig.loads({ failures: 1 });
      rig.send('r1', three('r1'), LIST);
      expect(rig.run('apply', 'r1', '600').code).toBe(5);
      expect([rig.disk(), rig.more()]).toEqual([OLD, null]);
    });

    test('a list of one is one', () => {
      rig.send('r1', { 'frr.conf': 'only\n' }, 'frr.conf /etc/frr/frr.conf\n');
      expect([rig.run('check', 'r1').code, rig.run('apply', 'r1', '600').code]).toEqual([0, 0]);
      expect(rig.disk()).toEqual({ ...OLD, 'frr.conf': 'only\n' });
      rig.run('undo', 'r1');
      expect(rig.disk()).toEqual(OLD);
    });

    test.each([
      ['outside of /etc', 'x.conf /usr/bin/x\n', 'documents live under /etc'],
      ['by a way up', 'x.conf /etc/../usr/bin/x\n', 'is no place for a document'],
      ['under a name of the helper’s own', 'minder /etc/minder\n', 'is no name of a document'],
      ['that was not sent', 'y.conf /etc/y.conf\n', 'y.conf was not sent'],
    ])('a document %s is refused, and nothing is touched', (_what, more, why) => {
      rig.send(
        'r1',
        { ...newText('r1'), 'x.conf': 'x\n', minder: 'x\n' },
        `interfaces /etc/network/interfaces\n${more}`,
      );
      expect(rig.run('check', 'r1')).toEqual({ code: 3, text: expect.stringContaining(why) as string });
      expect(rig.run('apply', 'r1', '600').code).toBe(3);
      expect([rig.disk(), rig.state()]).toEqual([OLD, 'none -']);
    });
  });
  describe('a document of which only a part is ours', () => {
    const KIND = { ...MORE, region: true } as const;
    const LIST = `interfaces /etc/network/interfaces\n${MORE.name} ${MORE.path} #\n`;
    const send = (id: string, part: string) =>
      rig.send(id, { interfaces: newText(id).interfaces, [MORE.name]: part }, LIST);

    test.each([
      ['is there with nothing of ours', 'bgpd=no\n# theirs\n'],
      ['ends without a line feed', 'bgpd=no'],
      ['is empty', ''],
      ['has our part in its midst', 'a\n\n# anthemion begin\nold\nold\n# anthemion end\n\nb'],
      ['has our part alone, empty', '# anthemion begin\n# anthemion end\n'],
      ['has our part first', '# anthemion begin\nx\n# anthemion end\n\u00ff rest\n\n'],
      ['has our part last, without a line feed', 'a\n# anthemion begin\nx\n# anthemion end'],
    ])('that %s: ours is put in, all else stays byte for byte, and undo has it as before', (_what, there) => {
      rig.putMore(there);
      send('r1', 'bgpd=yes\nospfd=yes\n');
      expect([rig.run('check', 'r1').code, rig.run('apply', 'r1', '600').code]).toEqual([0, 0]);
      expect(rig.more()).toBe(withOwned(KIND, there, 'bgpd=yes\nospfd=yes\n'));
      expect(ownedOf(KIND, rig.more()!)).toBe('bgpd=yes\nospfd=yes\n');
      rig.run('undo', 'r1');
      expect(rig.more()).toBe(there);
    });

    test('that is not there holds nothing but ours, and goes again', () => {
      send('r1', 'x\n');
      rig.run('apply', 'r1', '600');
      expect(rig.more()).toBe('# anthemion begin\nx\n# anthemion end\n');
      rig.run('undo', 'r1');
      expect(rig.more()).toBeNull();
    });

    test('what somebody adds around it between check and apply stays', () => {
      rig.putMore('a\n');
      send('r1', 'x\n');
      rig.run('check', 'r1');
      rig.putMore('a\nb\n');
      rig.run('apply', 'r1', '600');
      expect(rig.more()).toBe('a\nb\n# anthemion begin\nx\n# anthemion end\n');
    });

    test.each([
      ['marks that were damaged', '# anthemion begin\nx\n', 'y\n', /must stand in it once each, in that order/],
      ['marks the wrong way round', '# anthemion end\n# anthemion begin\n', 'y\n', /once each/],
      ['two parts', '# anthemion begin\n# anthemion end\n'.repeat(2), 'y\n', /once each/],
      ['a part that holds a mark', 'x\n', '# anthemion end\n', /holds one of its own marks/],
      ['a part whose last line has no end', 'x\n', 'y', /its last line has no end/],
    ])('%s are refused, and nothing is touched', (_what, there, part, says) => {
      rig.putMore(there);
      send('r1', part);
      for (const command of ['check', 'apply'])
        expect(rig.run(command, 'r1', '600')).toEqual({ code: 3, text: expect.stringMatching(says) as string });
      expect([rig.more(), rig.state()]).toEqual([there, 'none -']);
    });
  });
  test('a second apply waits its turn, and nothing is applied that was not sent or that was cancelled', () => {
    rig.send('r1');
    rig.send('r2');
    rig.send('r4');
    expect(rig.run('apply', 'r3', '600').code).toBe(3);
    rig.run('apply', 'r1', '600');
    expect(rig.run('apply', 'r2', '600')).toEqual({ code: 4, text: 'apply r1 is still pending' });
    rig.run('confirm', 'r1');
    expect(rig.run('cancel', 'r4').text).toBe('cancelled');
    expect(rig.run('apply', 'r4', '600')).toEqual({ code: 4, text: 'apply r4 was cancelled' });
    expect(rig.run('cancel', 'r1').code).toBe(4);
    expect(rig.run('apply', 'r2', '600').code).toBe(0);
    expect(rig.run('cancel', 'r2').text).toBe('undone');
    expect(rig.running()).toEqual(newText('r1'));
  });
  test('promise 4: after a restart, boot takes back what was not confirmed and leaves what was', async () => {
    rig.send('r1');
    rig.run('apply', 'r1', '600');
    rig.run('boot');
    expect([rig.running(), rig.state()]).toEqual([OLD, 'undone r1']);
    rig.send('r2');
    rig.run('apply', 'r2', '600');
    // Nothing is loaded yet at this moment of the start: the files are enough.
    rig.run('boot', 'cold');
    expect([rig.disk(), rig.state()]).toEqual([OLD, 'undone r2']);
    rig.send('r3');
    rig.run('apply', 'r3', '600');
    rig.run('confirm', 'r3');
    rig.run('boot');
    expect([rig.disk(), await rig.settled()]).toEqual([newText('r3'), 'confirmed r3']);
  });
  test('promise 4: where neither text loads, that is what it says; it tries again until it can', async () => {
    rig.send('r1');
    rig.loads({ failures: 3 });
    const failed = rig.run('apply', 'r1', '1');
    expect([failed.code, rig.state()]).toEqual([6, 'stuck r1']);
    expect(failed.text).toContain('the old text does not load either');
    rig.send('r2');
    expect(rig.run('apply', 'r2', '60').text).toBe('apply r1 is still stuck');
    expect(await rig.settled()).toBe('undone r1');
    expect(rig.running()).toEqual(OLD);
  });
  test('the way out: an operator releases what can neither be confirmed nor taken back, with a reason in the log', () => {
    rig.send('r1');
    rig.loads({ unloadable: 'e' });
    expect(rig.run('apply', 'r1', '600').code).toBe(6);
    expect(rig.run('release', 'r1').code).toBe(2);
    expect(rig.run('release', 'r1', 'mended-by-hand').text).toBe('released');
    expect(rig.log()).toContain('r1 released from stuck: mended-by-hand');
    rig.loads({});
    rig.send('r2');
    expect(rig.run('apply', 'r2', '600').code).toBe(0);
    expect(rig.run('release', 'r1', 'again').code).toBe(4);
  });
  test('a load that hangs is ended by the timer, and taken back', async () => {
    rig.send('r1');
    rig.loads({ hangs: 'new' });
    const apply = rig.start(['apply', 'r1', '1']);
    expect(await new Promise((done) => apply.once('exit', done))).toBe(5);
    expect([rig.state(), rig.running()]).toEqual(['undone r1', OLD]);
  });
  test('somebody who killed even the timer: the next one who asks sees to it', async () => {
    rig.send('r1');
    rig.run('apply', 'r1', '1');
    const minder = readFileSync(join(rig.home, 'r1/minder'), 'utf8').split(' ')[0]!;
    process.kill(Number(minder), 'SIGKILL');
    await new Promise((done) => setTimeout(done, 2500));
    expect(rig.state()).toBe('pending r1');
    expect(rig.run('status').text).toBe('pending r1 0');
    expect(await rig.settled()).toBe('undone r1');
    expect(rig.running()).toEqual(OLD);
  });
  test('equip puts the start-up hook in place, with or without systemd, and says what is missing', () => {
    expect(rig.run('equip').text).toBe('ready');
    expect(readFileSync(join(rig.root, 'etc/init.d/anthemion-boot'), 'utf8')).toContain('anthemion-apply boot cold');
    expect(readlinkSync(join(rig.root, 'etc/rcS.d/S01anthemion-boot'))).toBe('../init.d/anthemion-boot');
    mkdirSync(join(rig.root, 'run/systemd/system'), { recursive: true });
    expect(rig.run('equip').text).toBe('ready');
    expect(readFileSync(join(rig.root, 'etc/systemd/system/anthemion-boot.service'), 'utf8')).toContain(
      'Before=network-pre.target',
    );
    expect(readlinkSync(join(rig.root, 'etc/systemd/system/sysinit.target.wants/anthemion-boot.service'))).toBe(
      '/etc/systemd/system/anthemion-boot.service',
    );
    // Without one of its tools it does not begin. Only the shell's own folder is searched.
    mkdirSync(join(rig.folder, 'few'));
    for (const tool of ['mkdir', 'flock', 'setsid', 'sync', 'cmp'])
      symlinkSync(`/usr/bin/${tool}`, join(rig.folder, 'few', tool));
    const few = rig.start(['equip'], { PATH: join(rig.folder, 'few') });
    let said = '';
    few.stderr!.on('data', (d: Buffer) => (said += d.toString()));
    return new Promise<void>((done) =>
      few.once('close', (code) => {
        expect([code, said]).toEqual([1, 'this switch has no sha256sum; the apply helper cannot work here\n']);
        done();
      }),
    );
  });
  test('under systemd the timer is a unit of its own', async () => {
    mkdirSync(join(rig.root, 'run/systemd/system'), { recursive: true });
    // As systemd-run does: the unit's process is a child of somebody else.
    rig.command(
      'systemd-run',
      `echo "$*" >> "${rig.folder}/units"\nwhile [ "$1" != /bin/sh ]; do shift; done\nsetsid "$@" </dev/null >/dev/null 2>&1 &`,
    );
    rig.send('r1');
    expect(rig.run('apply', 'r1', '1').code).toBe(0);
    expect(readFileSync(join(rig.folder, 'units'), 'utf8')).toMatch(/--unit=anthemion-undo-r1-\d+ .*minder r1 1\n$/);
    expect(await rig.settled()).toBe('undone r1');
  });
  test('ids and times are checked before anything is done', () => {
    expect(rig.run('apply', '../etc', '60').code).toBe(2);
    expect(rig.run('apply', 'r1', 'soon').code).toBe(2);
    expect(rig.run('dance').code).toBe(2);
    expect(rig.state()).toBe('none -');
  });
});
