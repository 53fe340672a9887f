/** writes tells whether each seller writes listings on a site of a kind. */
export const writes = (kind: string) => kind === "own listings" || kind === "sheet" || kind === "by hand";
