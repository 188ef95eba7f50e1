import { readFileSync } from 'node:fs';
import { crc32, deflateSync } from 'node:zlib';

const own = (file: string): Buffer => readFileSync(new URL(`./assets/${file}`, import.meta.url));

/** A library of charts of which the board needs nothing before it is painted: as large as such ones are. */
function chartsScript(): string {
  const parts = Array.from(
    { length: 5200 },
    (_, i) =>
      `charts.kind${i} = { name: 'chart ${i}', axes: [${i}, ${i * 7}], draw: (at) => at * ${i + 1} + ${i} };`
  );
  return `var charts = {};\n${parts.join('\n')}\n`;
}

/** The harbour in the morning: a picture that does not compress well, as photographs do not. */
function harbourPicture(width = 960, height = 400): Buffer {
  const row = 1 + width * 3;
  const pixels = Buffer.alloc(row * height);
  let seed = 17;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      seed = (seed * 1_103_515_245 + 12_345) & 0x7fffffff;
      const noise = seed % 5 === 0 ? (seed >> 9) % 24 : 0;
      const isWater = y > height * 0.6 + Math.sin(x / 40) * 6;
      const at = y * row + 1 + x * 3;
      pixels[at] = (isWater ? 40 : 190) + noise;
      pixels[at + 1] = (isWater ? 84 : 200) + noise;
      pixels[at + 2] = (isWater ? 104 : 205) + noise;
    }
  }
  const chunk = (type: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const framed = Buffer.alloc(body.length + 8);
    framed.writeUInt32BE(data.length, 0);
    body.copy(framed, 4);
    framed.writeUInt32BE(crc32(body), body.length + 4);
    return framed;
  };
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width, 0);
  header.writeUInt32BE(height, 4);
  header.set([8, 2, 0, 0, 0], 8);
  // PNG (W3C, second edition): signature, IHDR, IDAT, IEND.
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', header),
    chunk('IDAT', deflateSync(pixels, { level: 6 })),
    chunk('IEND', Buffer.alloc(0))
  ]);
}

export interface Asset {
  type: string;
  body: Buffer;
}

/** The files of the office’s pages, by name. */
export function officeAssets(): ReadonlyMap<string, Asset> {
  const script = 'text/javascript; charset=utf-8';
  return new Map<string, Asset>([
    ['office.css', { type: 'text/css; charset=utf-8', body: own('office.css') }],
    ['board.js', { type: script, body: own('board.js') }],
    ['charts.js', { type: script, body: Buffer.from(chartsScript()) }],
    ['harbour.png', { type: 'image/png', body: harbourPicture() }]
  ]);
}
