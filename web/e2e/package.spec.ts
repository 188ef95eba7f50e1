import { execFile, execFileSync, fork, spawn, type ChildProcess } from 'node:child_process';
import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { tryUntil } from './try-until';

const ROOT = path.resolve(import.meta.dirname, '../..');
const PORT = 4879;

let folder: string;
let tarball: string;
let server: ChildProcess | undefined;

/** Runs the installed command, as `npx tromix` does. */
const tromix = (...args: string[]): Promise<{ code: number | null; out: string; error: string }> =>
  new Promise((resolve) => {
    const child = execFile(
      path.join(folder, 'node_modules/.bin/tromix'),
      args,
      { cwd: folder },
      (_, out, error) => resolve({ code: child.exitCode, out, error })
    );
  });

test.describe('the package, installed into an empty folder', () => {
  test.describe.configure({ mode: 'serial' });
  test.setTimeout(240_000);

  test.beforeAll(() => {
    folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-package-'));
    execFileSync(process.execPath, [path.join(ROOT, 'scripts/package.mjs'), '--built'], { stdio: 'ignore' });
    const { version } = JSON.parse(readFileSync(path.join(ROOT, 'package.json'), 'utf8')) as {
      version: string;
    };
    writeFileSync(path.join(folder, 'package.json'), '{ "private": true }');
    tarball = path.join(ROOT, `dist/tromix-${version}.tgz`);
    execFileSync('npm', ['i', '--prefer-offline', '--no-audit', '--no-fund', tarball], {
      cwd: folder,
      stdio: 'ignore'
    });
  });
  test.afterAll(() => {
    server?.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  });

  test('inspects files, and refuses what it does not know', async () => {
    const recordings = path.join(ROOT, 'workload/recordings');
    const file = readdirSync(recordings).find((name) => name.startsWith('cpu-tides-7.2'))!;
    const recording = path.join(recordings, file);
    const { code, out } = await tromix('inspect', recording, '--json');
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ tromix: 1, results: [{ kind: 'profile' }] });
    const refused = await tromix('inspect', recording, '--jsn');
    expect(refused.code).toBe(2);
    expect(refused.error).toContain('Did you mean --json?');
  });

  test('has the licences of what it bundles', () => {
    const text = readFileSync(path.join(folder, 'node_modules/tromix/THIRD-PARTY-LICENCES.txt'), 'utf8');
    for (const name of ['svelte', 'echarts', 'commander', 'valibot', 'drizzle-orm'])
      expect(text).toMatch(new RegExp(`^${name} \\d`, 'm'));
  });

  test('serves the demo data, with its source beside the lines', async ({ page }) => {
    server = fork(path.join(folder, 'node_modules/tromix/bin/tromix.mjs'), ['demo', '--port', String(PORT)], {
      cwd: folder,
      silent: true
    });
    await expect(async () => {
      expect((await fetch(`http://127.0.0.1:${PORT}/api/palette?q=tides`)).status).toBe(200);
    }).toPass({ timeout: 200_000 });
    await page.goto(`http://127.0.0.1:${PORT}/`);
    await expect(page.getByRole('link', { name: 'POST /calls/:id/berth' }).first()).toBeVisible({
      timeout: 60_000
    });
    await page.getByRole('link', { name: 'Profiles' }).click();
    await page.getByRole('link', { name: /^cpu-tides-7\.2/ }).click();
    await expect(page.getByTestId('flame')).toBeVisible();
    await page.goto(`${page.url().split('?')[0]}?show=lines`);
    await expect(page.getByText('StampError').first()).toBeVisible();
  });

  test('runs an unchanged service and names the line of its loop', async ({ page }) => {
    test.setTimeout(300_000);
    const board = path.join(ROOT, 'run/fixtures/board');
    const [port, databasePort] = [4878, 4877];
    const database = fork(path.join(board, 'database.mjs'), [String(databasePort)]);
    await new Promise((resolve) => database.once('message', resolve));
    const service = spawn(
      path.join(folder, 'node_modules/.bin/tromix'),
      [
        'run',
        '--to',
        `http://127.0.0.1:${PORT}`,
        '--',
        process.execPath,
        'server.mjs',
        port,
        databasePort
      ].map(String),
      { cwd: board }
    );
    let said = '';
    for (const stream of [service.stdout, service.stderr])
      stream.on('data', (text: Buffer) => void (said += text.toString()));
    try {
      await expect(async () => {
        expect((await fetch(`http://127.0.0.1:${port}/board/north`)).status).toBe(200);
      }).toPass({ timeout: 60_000 });
      // The same steps again and again, sent from the interface; every request they cause is known.
      await page.goto(`http://127.0.0.1:${PORT}/load`);
      const form = page.getByRole('form', { name: 'New load run' });
      await form.getByLabel('address', { exact: true }).fill(`http://127.0.0.1:${port}/board/north`);
      await form.getByLabel('users', { exact: true }).fill('2');
      await form.getByLabel('ramp-up, s', { exact: true }).fill('1');
      await form.getByLabel('loops', { exact: true }).fill('10');
      await form.getByRole('button', { name: 'Start the run' }).click();
      await expect(page.getByRole('link', { name: 'Repeat it' })).toBeVisible({ timeout: 180_000 });
      await expect(page.getByRole('main').locator('dl')).toContainText(/samples\s*20/);
      const caused = await page.getByRole('link', { name: 'Requests it caused' }).getAttribute('href');
      await tryUntil(async (patience) => {
        await page.goto(`http://127.0.0.1:${PORT}${caused}`);
        await expect(page.getByRole('main')).toContainText('20 requests', patience);
      });
      await page.getByRole('link', { name: 'Open the slowest' }).click();
      const reading = page.getByRole('complementary', { name: 'Reading' });
      await expect(reading).toContainText('One query per row');
      await expect(reading).toContainText(
        /20 times.*each time for another value.*returned 20 rows.*server\.mjs:\d+ berthOf/s
      );
      await expect(reading).toContainText(/The request should then take/);
      // The program says what it says alone; that somebody looks at it by its inspector Node.js itself tells, and servers of other tests may.
      expect(said.replaceAll('Debugger attached.\n', '')).toBe('the board is up\n');
      // The inspector is open, so that the recorder finds it.
      await page.getByRole('link', { name: 'Recorder' }).click();
      await expect(page.getByRole('row', { name: /board/ }).first()).toBeVisible({ timeout: 60_000 });
    } finally {
      service.kill('SIGTERM');
      database.kill('SIGKILL');
    }
  });

  test('the tutorial’s commands lead from an empty folder to a proven fix', async ({ page }) => {
    test.setTimeout(400_000);
    const [port, board] = [4876, 4875];
    const to = `http://127.0.0.1:${port}`;
    copyFileSync(tarball, path.join(folder, path.basename(tarball)));
    const env = { ...process.env, OTEL_EXPORTER_OTLP_ENDPOINT: to, npm_config_prefer_offline: 'true' };
    const running = new Map<string, ChildProcess>();
    /** Starts what goes on, and waits until it says so. */
    const start = (name: string, command: string, own: number, says: string): Promise<void> =>
      new Promise((resolve, reject) => {
        const child = spawn('sh', ['-c', command], {
          cwd: folder,
          env: { ...env, PORT: String(own) },
          detached: true
        });
        running.set(name, child);
        let said = '';
        for (const stream of [child.stdout, child.stderr])
          stream.on('data', (text: Buffer) => (said += text.toString()).includes(says) && resolve());
        child.once('exit', (code) => reject(new Error(`${command} ended with ${code}. ${said}`)));
      });
    const stop = async (name: string): Promise<void> => {
      const child = running.get(name);
      if (!child || child.exitCode !== null) return;
      const gone = new Promise((resolve) => child.once('exit', resolve));
      process.kill(-child.pid!, 'SIGTERM');
      await gone;
    };
    const steps = readFileSync(path.join(ROOT, 'docs/tutorial.md'), 'utf8').matchAll(
      /^```(sh|js) (\S+)\n(.*?)^```$/gms
    );
    const done: string[] = [];
    try {
      for (const [, language, name, text] of steps) {
        // Another port than people use at the machine that tests.
        const command = text.trim().replaceAll(':3000', `:${board}`);
        done.push(name);
        if (language === 'js') {
          await stop('run');
          writeFileSync(path.join(folder, name), text);
        } else if (name === 'serve') await start(name, command, port, 'listens on');
        else if (name === 'run') await start(name, command, board, 'the board is up');
        else execFileSync('sh', ['-c', command], { cwd: folder, env });
        if (name !== 'load') continue;
        const before = done.filter((one) => one === 'load').length === 1;
        await tryUntil(async (patience) => {
          await page.goto(`${to}${before ? '/' : '/compare'}`);
          const reading = page.getByRole('complementary', { name: 'Reading' });
          if (before) await expect(reading).toContainText('One remote call per item', patience);
          else
            await page
              .getByRole('link', { name: /board.*load run.*→/ })
              .first()
              .click(patience);
        });
        if (!before) {
          const main = page.getByRole('main');
          // What is still on its way when it is opened is taken in as it comes.
          await expect(main).toContainText('60 and 60 requests', { timeout: 60_000 });
          await expect(main).toContainText(/with 95.% confidence/, { timeout: 60_000 });
          await expect(main).toContainText(/takes .+ at the median instead of .+/);
          continue;
        }
        await page.getByRole('link', { name: 'Open a typical one' }).first().click();
        await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText(/board\.mjs:\d+/);
      }
    } finally {
      for (const name of running.keys()) await stop(name);
    }
    expect(done).toEqual(['install', 'serve', 'board.mjs', 'run', 'load', 'board.mjs', 'run', 'load']);
  });

  test('ends with what ended its server', async () => {
    const ended = new Promise((resolve) => server!.once('exit', resolve));
    server!.kill('SIGTERM');
    expect(await ended).toBe(0);
    server = undefined;
    const taken = await tromix('serve', '--port', 'harbour');
    expect(taken.code).toBe(2);
    expect(taken.error).toContain('Invalid PORT');
  });
});
