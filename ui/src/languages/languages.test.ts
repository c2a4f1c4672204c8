import { afterEach, describe, expect, it, vi } from "vitest";
import { messages, root, sources } from "../../messages.mjs";
import es from "./es.json";
import pt from "./pt.json";

const files = sources(root).map((f: string) => ({ name: f.slice(root.length), ...messages(f) }));
const said: Set<string> = new Set(files.flatMap((f) => f.said));
const values = (s: string) => [...s.matchAll(/\{\{(\w+)\}\}/g)].map((m) => m[1]).sort();

describe("the words of the interface", () => {
  it("are all looked up: none stands in the code as it is", () => {
    expect(files.length).toBeGreaterThan(150);
    expect(files.flatMap((f) => f.bare.map((b: string) => `${f.name}:${b}`))).toEqual([]);
  });
  it("are found by the reader of sources", () => {
    const source = 'const a = <p title="A title">Some words{x ? "others" : tr("Said {{n}}", { n: b === "no word" ? tr("one") : 2 })}</p>;';
    const ternary = `const a = <p>{\`\${n} \${n === 1 ? "person" : "two people"}\`}</p>;`;
    expect(messages("a.tsx", ternary).bare).toEqual(["1: two people"]);
    expect(messages("a.tsx", 'const a = <option>{tr("One")}</option>;').bare).toEqual(["1: a choice without a value"]);
    expect(messages("a.tsx", 'const a = <option value="one">{tr("One")}</option>;').bare).toEqual([]);
    expect(messages("a.tsx", `const a = <B name={\`Up: \${n}\`} />;`).bare).toEqual(["1: Up: "]);
    expect(messages("a.tsx", "client.PUT(path, { body: { kind: word(kind) } });").bare).toEqual(["1: a word of the reader is sent"]);
    expect(messages("a.tsx", source)).toEqual({ said: ["Said {{n}}", "one"], bare: ["1: A title", "1: Some words"] });
  });
});

describe.each([
  ["Portuguese", pt as Record<string, string>],
  ["Spanish", es as Record<string, string>],
])("%s", (_, words) => {
  it("has every sentence", () => {
    expect(said.size).toBeGreaterThan(2000);
    expect([...said].filter((k) => !words[k])).toEqual([]);
  });
  it("has none that nothing says any more", () => {
    expect(Object.keys(words).filter((k) => !said.has(k))).toEqual([]);
  });
  it("fills in only what there is", () => {
    for (const [english, other] of Object.entries(words)) {
      expect(values(english), `${english} → ${other}`).toEqual(expect.arrayContaining(values(other)));
    }
  });
});

describe("a language", () => {
  afterEach(() => {
    localStorage.clear();
    vi.resetModules();
    vi.unstubAllGlobals();
  });
  const start = async () => {
    vi.resetModules();
    const fresh = await import("../kit/tr");
    await fresh.startLanguage();
    return fresh;
  };
  it("is English where nothing else was asked for, with values filled in as on a page", async () => {
    const { tr } = await start();
    expect(tr("{{met}} of {{of}}", { met: 3, of: 4 })).toBe("3 of 4");
    expect(tr("a{{nothing}}b{{no}}", { nothing: undefined, no: false })).toBe("ab");
    expect(document.documentElement.lang).toBe("en");
  });
  it("is what was chosen on the device, and English for what it lacks", async () => {
    localStorage.setItem("vereda-language", "pt");
    const { tr, language } = await start();
    expect(language()).toBe("pt");
    expect(tr("{{met}} of {{of}}", { met: 3, of: 4 })).toBe("3 de 4");
    expect(tr("A sentence no catalogue has")).toBe("A sentence no catalogue has");
    expect(document.documentElement.lang).toBe("pt");
  });
  it("is what the browser asks for", async () => {
    vi.stubGlobal("navigator", { ...navigator, languages: ["fr-FR", "es-MX", "en"] });
    const { language } = await start();
    expect(language()).toBe("es");
  });
});
