import css from "./rigs.module.css";

/** A formula set as one reads it: letters sloped, indices lowered, powers raised. */
export function Formula({ text }: { text: string }) {
  return (
    <p className={css.formula}>
      {parts(text).map((p, i) => (p.kind === "letter" ? <i key={i}>{p.text}</i> : p.kind === "sub" ? <sub key={i}>{p.text}</sub> : p.kind === "sup" ? <sup key={i}>{p.text}</sup> : <span key={i}>{p.text}</span>))}
    </p>
  );
}

type PartOf = { kind: "letter" | "sub" | "sup" | "plain"; text: string };

/** "d_last" → d with an index; single letters are variables, words and numbers stand upright. */
export function parts(text: string): PartOf[] {
  const found: PartOf[] = [];
  for (const token of text.match(/_[\p{L}\d]+|\^[\p{L}\d.]+|Δ|[\p{L}][\p{L}\p{M}]*|[^\p{L}_^]+/gu) ?? []) {
    if (token.startsWith("_")) found.push({ kind: "sub", text: token.slice(1) });
    else if (token.startsWith("^")) found.push({ kind: "sup", text: token.slice(1) });
    else if (token !== "Δ" && /^\p{L}\p{M}*$/u.test(token)) found.push({ kind: "letter", text: token });
    else found.push({ kind: "plain", text: token });
  }
  return found;
}
