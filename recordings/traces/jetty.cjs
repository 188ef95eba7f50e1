/**
 * A service without a database that asks another over HTTPS: its connections are opened anew, and kept. The automatic instrumentation records
 * name look-ups and sockets inside the call.
 */
const { execFileSync } = require('node:child_process');
const { mkdtempSync, readFileSync } = require('node:fs');
const http = require('node:http');
const https = require('node:https');
// As clients of databases do: only what a program loads is instrumented.
require('net');
require('dns');
const os = require('node:os');
const path = require('node:path');

const folder = mkdtempSync(path.join(os.tmpdir(), 'jetty-'));
const [key, cert] = ['key.pem', 'cert.pem'].map((name) => path.join(folder, name));
execFileSync('openssl', [
  'req',
  '-x509',
  '-newkey',
  'rsa:2048',
  '-nodes',
  '-days',
  '2',
  '-subj',
  '/CN=localhost',
  '-keyout',
  key,
  '-out',
  cert
]);

const TARIFF_MS = 40;
const tariffs = https.createServer(
  { key: readFileSync(key), cert: readFileSync(cert) },
  (request, response) => {
    setTimeout(
      () => response.writeHead(request.url.includes('none') ? 404 : 200).end('{"dues":17}'),
      TARIFF_MS
    );
  }
);
const agent = new https.Agent({ keepAlive: true, ca: readFileSync(cert) });
const ask = (where) =>
  new Promise((resolve, reject) => {
    https
      .get(`https://localhost:${tariffs.address().port}${where}`, { agent }, (response) => {
        response.resume().on('end', resolve);
      })
      .on('error', reject);
  });

tariffs.listen(0, '127.0.0.1', () => {
  http
    .createServer(async (request, response) => {
      if (request.url === '/dues') {
        await ask('/tariffs/3');
        await ask('/tariffs/3');
        await ask('/tariffs/none');
      }
      response.end('{}');
    })
    .listen(Number(process.env.PORT), '127.0.0.1', () => console.log('ready'));
});
