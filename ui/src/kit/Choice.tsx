import { ToggleGroup } from "radix-ui";

type Option<T extends string> = { value: T; label: string; title?: string };

/** Choice is one of a few, side by side; arrow keys move inside it. */
export function Choice<T extends string>(props: {
  label: string;
  value: T;
  options: Option<T>[];
  onChange: (value: T) => void;
  big?: boolean;
  disabled?: boolean;
}) {
  const size = props.big ? "min-h-[48px] flex-1 px-2 text-[15px]" : "h-[29px] px-2.5";
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={props.label}
      value={props.value}
      disabled={props.disabled}
      onValueChange={(v) => v && props.onChange(v as T)}
      className={`no-print inline-flex border-[1.5px] border-ink rounded-sm ${props.big ? "w-full" : ""}`}
    >
      {props.options.map((o) => (
        <ToggleGroup.Item
          key={o.value}
          value={o.value}
          title={o.title}
          className={`${size} border-r border-rule font-semibold last:border-r-0 data-[state=on]:bg-ink data-[state=on]:text-white`}
        >
          {o.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
