import { expect, it } from 'vitest';
import { decodeLogsProtobuf } from './logs';
import { decodeTracesProtobuf } from './traces';

/** A field of length-delimited bytes, and a pair of name and AnyValue (field numbers of opentelemetry-proto v1, common.proto). */
const field = (number: number, bytes: readonly number[]): number[] => [
  number * 8 + 2,
  bytes.length,
  ...bytes
];
const pair = (name: string, any: readonly number[]): number[] => [
  ...field(1, [...new TextEncoder().encode(name)]),
  ...field(2, any)
];
const NOTHINGS: [string, number[], unknown][] = [
  ['int', [0x18, 0], 0],
  ['bool', [0x10, 0], false],
  ['text', [0x0a, 0], ''],
  ['double', [0x21, 0, 0, 0, 0, 0, 0, 0, 0], 0]
];
const time = (number: number): number[] => [number * 8 + 1, 0, 0, 0x10, 0x63, 0x2d, 0x5e, 0xc7, 0x17];
const id = (length: number): number[] => new Array<number>(length).fill(1);

it.each(NOTHINGS)('0, false and an empty text are values: %s, of logs and of spans', (name, any, value) => {
  const record = [...time(1), ...field(9, id(16)), ...field(5, any), ...field(6, pair(name, any))];
  const logs = decodeLogsProtobuf(Uint8Array.from(field(1, field(2, field(2, record)))));
  expect([...logs.records[0].attributes]).toEqual([[name, value]]);
  expect(logs.records[0].body).toBe(String(value));
  const span = [
    ...field(1, id(16)),
    ...field(2, id(8)),
    ...time(7),
    ...time(8),
    ...field(9, pair(name, any))
  ];
  const { spans } = decodeTracesProtobuf(Uint8Array.from(field(1, field(2, field(2, span)))));
  expect([...spans[0].attributes]).toEqual([[name, value]]);
});
