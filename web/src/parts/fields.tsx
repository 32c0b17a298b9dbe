import { Check as Tick } from "lucide-react";
import { Checkbox } from "radix-ui";
import { useEffect, useId, useRef } from "react";
import { Input } from "./controls";

/** A line to type in, with its name before it. */
export function Field(props: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  area?: boolean;
  focus?: boolean;
  onEnter?: (() => void) | undefined;
}) {
  const { label, value, onChange, area, focus, onEnter } = props;
  const id = useId();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (focus) field.current?.focus();
  }, [focus]);
  return (
    <div className="mt-1 flex items-baseline gap-2">
      <label htmlFor={id} className="w-[92px] shrink-0 text-small text-second">
        {label}
      </label>
      {area ? (
        <textarea
          id={id}
          rows={2}
          value={value}
          onChange={(e) => onChange(e.target.value)}
          className="min-w-0 flex-1 border-b border-second bg-transparent py-0.5 focus:border-act"
        />
      ) : (
        <Input
          id={id}
          ref={field}
          value={value}
          onChange={(e) => onChange(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter" || !onEnter) return;
            e.preventDefault();
            onEnter();
          }}
          className="flex-1"
        />
      )}
    </div>
  );
}

interface CheckProps {
  label: string;
  on: boolean;
  onTick: (on: boolean) => void;
  /** The label is for those only who don't see what it is beside. */
  bare?: boolean;
  disabled?: boolean;
}

/** Something that is on, or off. */
export function Check({ label, on, onTick, bare, disabled }: CheckProps) {
  const id = useId();
  return (
    <span className="inline-flex items-center gap-1.5 text-small">
      <Checkbox.Root
        id={id}
        checked={on}
        disabled={disabled ?? false}
        onCheckedChange={(to) => onTick(to === true)}
        {...(bare ? { "aria-label": label } : {})}
        className="inline-flex size-[15px] shrink-0 items-center justify-center rounded-[3px] border border-second bg-paper disabled:opacity-50 data-[state=checked]:border-act data-[state=checked]:bg-act data-[state=checked]:text-on-act"
      >
        <Checkbox.Indicator>
          <Tick size={11} strokeWidth={3} />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {!bare && <label htmlFor={id}>{label}</label>}
    </span>
  );
}
