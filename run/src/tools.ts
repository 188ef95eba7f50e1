/** Programs that only start the one that is meant: they are not traced. */
const TOOLS =
  /[\\/](?:npm|npx|yarn|pnpm|pnpx|corepack)(?:-cli)?(?:\.c?js)?$|[\\/]node_modules[\\/](?:\.bin[\\/])?(?:npm|corepack|pnpm|yarn)[\\/]/;

/** @param script what `process.argv[1]` names */
export const isTool = (script: string): boolean => TOOLS.test(script);
