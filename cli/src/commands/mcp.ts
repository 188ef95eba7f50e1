import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { StdioServerTransport } from '@modelcontextprotocol/sdk/server/stdio.js';
import {
  ErrorCode,
  isInitializedNotification,
  isJSONRPCRequest,
  type JSONRPCMessage
} from '@modelcontextprotocol/sdk/types.js';
import { EXIT, type Define } from '../command';

interface McpOptions {
  server: string;
  token?: string;
}

const DEFAULT_SERVER = `http://127.0.0.1:${process.env.PORT ?? '4380'}`;

export const defineMcp: Define = (command, outcome) => {
  command
    .option('--server <url>', 'where Tromix answers', DEFAULT_SERVER)
    .option('--token <token>', 'its access token (default TROMIX_TOKEN)')
    .addHelpText(
      'after',
      '\nAn assistant starts this and asks over standard input and output. The server has to be started with TROMIX_MCP=1.'
    )
    .action(async ({ server, token = process.env.TROMIX_TOKEN }: McpOptions) => {
      const wrong = await whyNot(server, token);
      if (wrong) {
        console.error(`tromix: ${wrong}`);
        outcome.code = EXIT.usage;
        return;
      }
      await handThrough(new URL('/mcp', server), token);
    });
};

const headersOf = (token: string | undefined): Record<string, string> =>
  token ? { authorization: `Bearer ${token}` } : {};

/** Why nothing can be asked there; '' where it can. */
async function whyNot(server: string, token: string | undefined): Promise<string> {
  if (!/^https?:\/\//.test(server) || !URL.canParse(server)) return `“${server}” is no address of a server.`;
  let status: number;
  try {
    // A server that answers assistants says that it has no stream of news (405).
    ({ status } = await fetch(new URL('/mcp', server), { headers: headersOf(token) }));
  } catch {
    return `Nothing answers at ${server}. Start it with TROMIX_MCP=1 tromix serve, or name another with --server.`;
  }
  if (status === 405) return '';
  if (status === 401) return `${server} asks for its access token: --token, or TROMIX_TOKEN.`;
  if (status === 404) return `${server} does not answer assistants. Start it with TROMIX_MCP=1.`;
  return `${server} answered ${status}.`;
}

/** Hands every message on, from standard input to the server and back, until the input ends. */
async function handThrough(url: URL, token: string | undefined): Promise<void> {
  const assistant = new StdioServerTransport();
  const server = new StreamableHTTPClientTransport(url, { requestInit: { headers: headersOf(token) } });
  const back = (message: JSONRPCMessage): Promise<void> => assistant.send(message);
  server.onmessage = (message) => {
    // What both sides agreed on stands in a header of every later question.
    if ('result' in message && typeof message.result.protocolVersion === 'string')
      server.setProtocolVersion(message.result.protocolVersion);
    void back(message);
  };
  assistant.onmessage = (message) => {
    // The client of the SDK would open a stream of news after this one; the server has none.
    if (isInitializedNotification(message)) return;
    server.send(message).catch((cause: Error) => {
      if (!isJSONRPCRequest(message)) return;
      const words = /"message":"([^"]+)"/.exec(cause.message)?.[1] ?? cause.message;
      void back({
        jsonrpc: '2.0',
        id: message.id,
        error: { code: ErrorCode.ConnectionClosed, message: words }
      });
    });
  };
  const closed = new Promise<void>((resolve) => {
    assistant.onclose = resolve;
    process.stdin.once('end', resolve);
  });
  await server.start();
  await assistant.start();
  await closed;
  await server.terminateSession().catch(() => undefined);
  await server.close();
}
