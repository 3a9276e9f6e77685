/** The version of the server that this page came from. */
export const version = () => document.querySelector<HTMLMetaElement>('meta[name="version"]')?.content ?? "";
