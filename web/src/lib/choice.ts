/** One of some choices by its name in an address; the usual one for any other text, `constructor` and the like among them. */
export const choiceOf = <Choices extends object>(
  choices: Choices,
  asked: string,
  usual: keyof Choices & string
): keyof Choices & string => (Object.hasOwn(choices, asked) ? (asked as keyof Choices & string) : usual);
