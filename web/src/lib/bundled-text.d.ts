declare module '*?nodeworker' {
  const code: string;
  export default code;
}

declare module '*?browserscript' {
  const code: string;
  export default code;
}
