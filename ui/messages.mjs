// What the interface says, read off its source: every sentence that is looked up with tr(), and every word that is not.
import fs from "node:fs";
import path from "node:path";
import ts from "typescript";

const shown = new Set(["label", "aria-label", "title", "placeholder", "hint", "alt", "aria-roledescription", "aria-description", "aria-valuetext", "none", "add"]);
const letters = /\p{L}{2,}/u;

/** sources lists the files that have words. */
export function sources(dir) {
  return fs
    .readdirSync(dir, { withFileTypes: true })
    .flatMap((f) => (f.isDirectory() ? sources(path.join(dir, f.name)) : [path.join(dir, f.name)]))
    .filter((f) => /\.tsx?$/.test(f) && !/\.test\.|\.fixture\.|schema\.d\.ts$|testing\.tsx$/.test(f));
}

/** messages reads one file: the sentences it looks up, and words that stand in it as they are, with their lines. */
export function messages(file, text = fs.readFileSync(file, "utf8")) {
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true, file.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS);
  const said = [];
  const bare = [];
  const line = (n) => source.getLineAndCharacterOfPosition(n.getStart(source)).line + 1;
  const visit = (n) => {
    if (ts.isCallExpression(n) && n.expression.getText(source) === "tr") {
      const key = n.arguments[0];
      if (key && ts.isStringLiteralLike(key)) said.push(key.text);
      for (const other of n.arguments.slice(1)) visit(other);
      if (key && !ts.isStringLiteralLike(key)) visit(key);
      return;
    }
    // What is sent is the word of the server, in every language.
    if (ts.isCallExpression(n) && /^client\./.test(n.expression.getText(source)) && /\b(tr|word)\(/.test(n.getText(source))) bare.push(`${line(n)}: a word of the reader is sent`);
    // The text of a choice is sent where it has no value: in another language it would be another choice.
    if (ts.isJsxElement(n) && n.openingElement.tagName.getText(source) === "option" && /\b(tr|word)\(/.test(n.getText(source)) && !/\bvalue=/.test(n.openingElement.getText(source))) bare.push(`${line(n)}: a choice without a value`);
    if (ts.isJsxText(n) && letters.test(n.text)) bare.push(`${line(n)}: ${n.text.trim()}`);
    if (ts.isTemplateHead(n) && /^\p{Lu}\p{Ll}+/u.test(n.text)) bare.push(`${line(n)}: ${n.text}`);
    if (ts.isStringLiteralLike(n) && letters.test(n.text)) {
      let at = n.parent;
      while (ts.isParenthesizedExpression(at) || ts.isConditionalExpression(at) || ts.isTemplateSpan(at) || ts.isTemplateExpression(at) || (ts.isBinaryExpression(at) && at.operatorToken.kind !== ts.SyntaxKind.EqualsEqualsEqualsToken)) at = at.parent;
      const attribute = ts.isJsxExpression(at) ? at.parent : at;
      if (ts.isJsxAttribute(attribute) ? shown.has(attribute.name.getText(source)) : ts.isJsxExpression(at)) {
        if (!compared(n) && (ts.isJsxAttribute(attribute) || !/^[a-z]+$/.test(n.text))) bare.push(`${line(n)}: ${n.text}`);
      }
    }
    ts.forEachChild(n, visit);
  };
  visit(source);
  return { said, bare };
}

function compared(n) {
  for (let at = n; at && !ts.isJsxExpression(at); at = at.parent) {
    const p = at.parent;
    if (p && ts.isConditionalExpression(p) && p.condition === at) return true;
    if (p && ts.isBinaryExpression(p) && /^[!=]==?$/.test(p.operatorToken.getText())) return true;
  }
  return false;
}

/** root is where the interface's sources lie. */
export const root = path.join(import.meta.dirname, "src/");
