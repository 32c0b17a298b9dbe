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

/** Something that is so, or not. */
export function Check({ label, on, onTick }: { label: string; on: boolean; onTick: (on: boolean) => void }) {
  return (
    <label className="mt-1 flex items-center gap-1.5 text-small">
      <input type="checkbox" checked={on} onChange={(e) => onTick(e.target.checked)} />
      {label}
    </label>
  );
}
