import type * as v from 'valibot';

/** Where and when a question is asked. */
export interface Asked {
  /** Where this server answers, before the addresses of its views. */
  origin: string;
  nowMs: number;
}

/** Something an assistant may ask; it only reads. */
export interface Tool<Input extends v.ObjectEntries = v.ObjectEntries> {
  name: string;
  /** When to ask it, and what comes back, with units. */
  says: string;
  input: Input;
  /** The lines of the answer. @throws AskInstead */
  answer: (input: v.InferOutput<v.ObjectSchema<Input, undefined>>, asked: Asked) => Promise<string[]>;
}

/** Keeps the type of a tool's input while it is listed among others. */
export const tool = <Input extends v.ObjectEntries>(of: Tool<Input>): Tool => of as unknown as Tool;
