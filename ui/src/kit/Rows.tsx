import type { ReactNode } from "react";
import { tr } from "./tr";

/** Rows edits a list: each item with what moves it and takes it out, and one button that adds. */
export function Rows<T>(props: {
  title: string;
  add: string;
  items: T[];
  blank: () => T;
  onChange: (items: T[]) => void;
  children: (item: T, set: (item: T) => void, at: number) => ReactNode;
  plain?: boolean;
}) {
  const { items, onChange } = props;
  const swap = (i: number, j: number) => {
    const next = [...items];
    const [x, y] = [next[i] as T, next[j] as T];
    next[i] = y;
    next[j] = x;
    onChange(next);
  };
  return (
    <section className={props.plain ? "" : "mt-3"} aria-label={props.title}>
      {!props.plain && <h2 className="border-b border-ink pb-0.5 text-[15px] leading-5">{props.title}</h2>}
      <ol>
        {items.map((item, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no other name while they are written
          <li key={i} className="grid grid-cols-[22px_minmax(0,1fr)_auto] gap-2 border-b border-hair py-2">
            <span className="num head text-soft">{i + 1}</span>
            <div className="flex min-w-0 flex-col gap-1.5">
              {props.children(item, (x) => onChange(items.map((had, j) => (j === i ? x : had))), i)}
            </div>
            <span className="flex flex-col gap-0.5">
              <Small name={tr("Up: {{what}} {{i}}", { what: props.title, i: i + 1 })} off={i === 0} onClick={() => swap(i, i - 1)}>
                ↑
              </Small>
              <Small
                name={tr("Down: {{what}} {{i}}", { what: props.title, i: i + 1 })}
                off={i === items.length - 1}
                onClick={() => swap(i, i + 1)}
              >
                ↓
              </Small>
              <Small
                name={tr("Remove: {{what}} {{i}}", { what: props.title, i: i + 1 })}
                onClick={() => onChange(items.filter((_, j) => j !== i))}
              >
                ✕
              </Small>
            </span>
          </li>
        ))}
      </ol>
      {props.add && (
        <button type="button" className="link mt-1 text-[13px]" onClick={() => onChange([...items, props.blank()])}>
          {props.add}
        </button>
      )}
    </section>
  );
}

function Small({ name, off, onClick, children }: { name: string; off?: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      disabled={off}
      onClick={onClick}
      className="h-6 w-6 rounded-sm border border-rule text-soft hover:bg-wash disabled:opacity-30"
    >
      {children}
    </button>
  );
}
