export const SERVER_ENV: Readonly<Record<string, string>>;
