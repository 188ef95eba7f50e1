import type { Reader } from 'protobufjs';
import type { Warnings } from '../../formats/evidence-error';
import { atEnd, BYTES, endOf, tag, varint, VARINT } from '../../formats/wire';
import { wellFormed } from '../../text/well-formed';

/**
 * What the samples of a protobuf profile refer to. Field numbers and meaning: the schema of the gzipped protobuf profile that Go's standard library writes
 * (its `proto.go` and `protomem.go` name the numbers).
 */

/** `ValueType`: what a value of each sample is. Places in the string table. */
export interface TypeOfValue {
  type: number;
  unit: number;
}
interface FunctionRow {
  name: number;
  systemName: number;
  file: number;
  startLine: number;
}
/** `Line`: one function of a location; several where the compiler put functions into their callers, the innermost first. */
export interface LineRow {
  functionId: number;
  line: number;
  column: number;
}
interface LocationRow {
  mappingId: number;
  address: number;
  lines: LineRow[];
}

/** Everything but the samples, read in one pass; samples may come before what they refer to. */
export class Tables {
  readonly types: TypeOfValue[] = [];
  readonly functions = new Map<number, FunctionRow>();
  readonly locations = new Map<number, LocationRow>();
  /** File of each mapped library or program, by id: places in the string table. */
  readonly mappings = new Map<number, number>();
  timeNs = 0;
  durationNs = 0;
  defaultType = 0;
  samples = 0;
  readonly #reader: Reader;
  readonly #warnings: Warnings;
  /** Where each text begins: it is decoded when it is asked for. */
  readonly #textAt: number[] = [];
  readonly #texts = new Map<number, string>();

  /** @throws RangeError or Error where the bytes are damaged. */
  constructor(reader: Reader, warnings: Warnings) {
    this.#reader = reader;
    this.#warnings = warnings;
    while (reader.pos < reader.len) this.#field(reader.uint32());
  }

  /** A text of the string table; '' for one that is not in it, which is counted. */
  text(place: number): string {
    const known = this.#texts.get(place);
    if (known !== undefined) return known;
    let text = '';
    if (place in this.#textAt) {
      const { pos } = this.#reader;
      this.#reader.pos = this.#textAt[place];
      text = wellFormed(this.#reader.string());
      this.#reader.pos = pos;
    } else if (place !== 0)
      this.#warnings.add('unknown-text', 'A name is not in the table of texts; it stands as empty.');
    this.#texts.set(place, text);
    return text;
  }

  #field(found: number): void {
    const reader = this.#reader;
    if (found === tag(1, BYTES)) this.types.push(this.#type());
    else if (found === tag(2, BYTES)) {
      this.samples++;
      reader.pos = endOf(reader);
    } else if (found === tag(3, BYTES)) this.#mapping();
    else if (found === tag(4, BYTES)) this.#location();
    else if (found === tag(5, BYTES)) this.#function();
    else if (found === tag(6, BYTES)) {
      this.#textAt.push(reader.pos);
      reader.pos = endOf(reader);
    } else if (found === tag(9, VARINT)) this.timeNs = varint(reader);
    else if (found === tag(10, VARINT)) this.durationNs = varint(reader);
    else if (found === tag(14, VARINT)) this.defaultType = varint(reader);
    else reader.skipType(found & 7);
  }

  #type(): TypeOfValue {
    const type = { type: 0, unit: 0 };
    this.#message((found, reader) => {
      if (found === tag(1, VARINT)) type.type = varint(reader);
      else if (found === tag(2, VARINT)) type.unit = varint(reader);
      else return false;
      return true;
    });
    return type;
  }

  #mapping(): void {
    let [id, file] = [0, 0];
    this.#message((found, reader) => {
      if (found === tag(1, VARINT)) id = varint(reader);
      else if (found === tag(5, VARINT)) file = varint(reader);
      else return false;
      return true;
    });
    this.mappings.set(id, file);
  }

  #location(): void {
    let id = 0;
    const row: LocationRow = { mappingId: 0, address: 0, lines: [] };
    this.#message((found, reader) => {
      if (found === tag(1, VARINT)) id = varint(reader);
      else if (found === tag(2, VARINT)) row.mappingId = varint(reader);
      else if (found === tag(3, VARINT)) row.address = varint(reader);
      else if (found === tag(4, BYTES)) row.lines.push(this.#line());
      else return false;
      return true;
    });
    this.locations.set(id, row);
  }

  #line(): LineRow {
    const row: LineRow = { functionId: 0, line: 0, column: 0 };
    this.#message((found, reader) => {
      if (found === tag(1, VARINT)) row.functionId = varint(reader);
      else if (found === tag(2, VARINT)) row.line = varint(reader);
      else if (found === tag(3, VARINT)) row.column = varint(reader);
      else return false;
      return true;
    });
    return row;
  }

  #function(): void {
    let id = 0;
    const row: FunctionRow = { name: 0, systemName: 0, file: 0, startLine: 0 };
    this.#message((found, reader) => {
      if (found === tag(1, VARINT)) id = varint(reader);
      else if (found === tag(2, VARINT)) row.name = varint(reader);
      else if (found === tag(3, VARINT)) row.systemName = varint(reader);
      else if (found === tag(4, VARINT)) row.file = varint(reader);
      else if (found === tag(5, VARINT)) row.startLine = varint(reader);
      else return false;
      return true;
    });
    this.functions.set(id, row);
  }

  /** Reads one message; fields nobody takes are skipped. */
  #message(take: (found: number, reader: Reader) => boolean): void {
    const reader = this.#reader;
    const end = endOf(reader);
    while (reader.pos < end) {
      const found = reader.uint32();
      if (!take(found, reader)) reader.skipType(found & 7);
    }
    atEnd(reader, end);
  }
}
