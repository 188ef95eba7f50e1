/** Why the server cannot start, in words for the person who started it. It is printed as one sentence, never with a stack. */
export class StartError extends Error {
  override name = 'StartError';
}
