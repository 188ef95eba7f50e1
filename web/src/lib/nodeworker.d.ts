declare module '*?nodeworker' {
  const code: string;
  export default code;
}
