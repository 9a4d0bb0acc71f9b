/** The kinds of place that a spool lies in. */
export const STORAGES = ["dry box", "sealed bag", "open"] as const;
