import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StdioClientTransport } from '@modelcontextprotocol/sdk/client/stdio.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { expect, test } from '@playwright/test';
import { BARE, DEMO, LOCKED } from './servers';

// The official client of the protocol asks, as an assistant would.

const ROOT = new URL('../..', import.meta.url).pathname;
/** Four characters a token (common practice). */
const MAX_CHARACTERS = 4 * 4000;

async function connect(url = DEMO.url): Promise<Client> {
  const client = new Client({ name: 'quay-assistant', version: '2.1' });
  await client.connect(new StreamableHTTPClientTransport(new URL('/mcp', url)));
  return client;
}

async function ask(
  client: Client,
  name: string,
  args: Record<string, unknown> = {}
): Promise<{ text: string; isError: boolean }> {
  const { content, isError } = await client.callTool({ name, arguments: args });
  const [{ text }] = content as { text: string }[];
  expect(text.length).toBeLessThan(MAX_CHARACTERS);
  return { text, isError: isError === true };
}

test('an assistant finds the query per row by tools alone, and is led to its line', async ({ page }) => {
  const client = await connect();
  const { tools } = await client.listTools();
  expect(tools.length).toBeGreaterThan(8);
  for (const { description, inputSchema, annotations } of tools) {
    expect(description!.length).toBeGreaterThan(40);
    expect(inputSchema.type).toBe('object');
    expect(annotations?.readOnlyHint).toBe(true);
  }
  const endpoints = await ask(client, 'list_endpoints', { service: 'berths' });
  expect(endpoints.text).toContain('POST /calls/:id/berth');
  const { text } = await ask(client, 'list_findings', { service: 'berths' });
  expect(text).toContain('One query per row');
  const [, example] = /example request: (\w{32}\/\w{16})/.exec(text)!;
  const request = await ask(client, 'read_request', { request: example });
  expect(request.text).toMatch(/select id, tonnes, hazard from manifest where id = \?/);
  const [, file, line] = /line: (\S+?):(\d+)/.exec(text)!;
  const source = await ask(client, 'read_source', { file, line: Number(line) });
  expect(source.text).toMatch(/> +\d+ .*await database\.all\(/);

  // What a person sees behind the link is the same request.
  const link = /http\S+\/requests\/\S+/.exec(request.text)![0];
  await page.goto(link);
  await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText('One query per row');

  const compared = await ask(client, 'compare', { load_run: 4 });
  expect(compared.text).toContain('Clearly faster');
  expect(compared.text).toMatch(/gone/);
  await page.goto(/http\S+\/compare\?\S+/.exec(compared.text)![0]);
  await expect(page.getByRole('main')).toContainText(/instead of/, { timeout: 30_000 });

  await page.goto(`${DEMO.url}/connect`);
  await expect(page.getByRole('region', { name: 'Assistants' })).toContainText(
    /quay-assistant 2\.1: \d+ questions/
  );
  await client.close();
});

test('profiles, thread dumps and heap dumps are read by an assistant too', async () => {
  const client = await connect();
  const idOf = async (kind: string): Promise<string> => {
    const { text } = await ask(client, 'list_evidence', { kind });
    return /[0-9a-f]{64}/.exec(text)![0];
  };
  const profile = await idOf('profile');
  const whole = await ask(client, 'read_profile', { id: profile });
  expect(whole.text).toMatch(/\| \d[\d.]*\s% \|/);
  const [, name] = /% \| +([\w.#]+) \|/.exec(whole.text)!;
  expect((await ask(client, 'read_profile', { id: profile, function: name })).text).toContain('called by:');
  expect((await ask(client, 'read_threads', { id: await idOf('threads') })).text).toMatch(/threads \(/);
  const heap = await idOf('heap');
  await expect
    .poll(async () => (await ask(client, 'read_heap', { id: heap })).text, { timeout: 60_000 })
    .toContain('What holds it');
  expect((await ask(client, 'read_case')).isError).toBe(false);
  await client.close();
});

test('what cannot be answered says what to ask instead; nonsense is refused by the standard', async ({
  request
}) => {
  const client = await connect();
  const wrong = async (name: string, args: Record<string, unknown>): Promise<string> => {
    const { text, isError } = await ask(client, name, args);
    expect(isError, `${name} ${JSON.stringify(args)}: ${text}`).toBe(true);
    return text;
  };
  expect(await wrong('list_requests', { servise: 'berths' })).toContain('Did you mean "service"?');
  expect(await wrong('list_endpoints', { service: 'nobody' })).toContain('leave names and times out');
  expect(await wrong('list_endpoints', { from: 'yesterday' })).toContain('ISO 8601');
  expect(await wrong('read_request', { request: 'x' })).toContain('trace/span');
  expect(await wrong('read_request', { request: `${'a'.repeat(32)}/${'b'.repeat(16)}` })).toContain(
    'list_requests'
  );
  expect(await wrong('read_profile', { id: 'f'.repeat(64) })).toContain('list_evidence');
  expect(await wrong('compare', {})).toContain('"a" and "b"');
  expect(await wrong('compare', { service: 'berths', release: '99' })).toContain('No release');
  expect(await wrong('read_source', { file: '../../etc/passwd', line: 1 })).not.toContain('root:');
  expect(await wrong('drop_everything', {})).toContain('list_endpoints');
  await client.close();

  const post = (data: string, headers: Record<string, string> = {}) =>
    request.post(`${DEMO.url}/mcp`, {
      data,
      headers: {
        'content-type': 'application/json',
        accept: 'application/json, text/event-stream',
        ...headers
      }
    });
  expect((await post('no json')).status()).toBe(400);
  expect((await post('{"jsonrpc":"2.0","id":1,"method":"tools/list"}')).status()).toBe(400);
  expect((await post(`"${'x'.repeat(70_000)}"`)).status()).toBe(400);
  expect((await post('{}', { 'mcp-session-id': 'none' })).status()).toBe(404);
  expect((await post('[]', { origin: 'http://evil.example' })).status()).toBe(403);
  // Off unless switched on; behind the token where there is one.
  expect((await request.get(`${BARE.url}/mcp`)).status()).toBe(404);
  expect((await request.post(`${LOCKED.url}/mcp`, { data: '{}' })).status()).toBe(401);
});

test('the command hands questions on over standard input and output', async () => {
  const stdio = (server: string) =>
    new StdioClientTransport({
      command: process.execPath,
      args: ['cli/bin/tromix.mjs', 'mcp', '--server', server],
      cwd: ROOT,
      stderr: 'pipe'
    });
  const client = new Client({ name: 'quay-terminal', version: '1.0' });
  await client.connect(stdio(DEMO.url));
  expect((await ask(client, 'list_endpoints', { rank: 'p95' })).text).toContain('| service |');
  await client.close();

  const off = stdio(BARE.url);
  let said = '';
  off.stderr?.on('data', (part: Buffer) => (said += part.toString()));
  await expect(new Client({ name: 'x', version: '1' }).connect(off)).rejects.toThrow();
  await expect.poll(() => said).toContain('does not answer assistants');
});
