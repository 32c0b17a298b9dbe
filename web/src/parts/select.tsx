import { Select } from "radix-ui";
import { useSession } from "../api/folder";

interface Props {
  label: string;
  options: { value: string; label: string }[];
  value: string;
  /** What is shown while nothing is chosen. */
  placeholder?: string;
  onChoose: (value: string) => void;
  className?: string;
}

/** One of several, chosen from a list that opens. */
export function Choose({ label, options, value, placeholder, onChoose, className = "" }: Props) {
  const nonce = useSession().data?.nonce;
  return (
    <Select.Root value={value} onValueChange={onChoose}>
      <Select.Trigger
        aria-label={label}
        className={`inline-flex max-w-full items-baseline gap-1.5 border-b border-second bg-paper px-1 py-0.5 text-left text-ink hover:border-act data-[state=open]:border-act ${className}`}
      >
        <span className="truncate">
          <Select.Value placeholder={placeholder} />
        </span>
        <Select.Icon className="text-second">
          <svg viewBox="0 0 10 6" width="9" height="6" aria-hidden="true">
            <path d="M1 1l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="1.4" />
          </svg>
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={2}
          className="z-20 max-h-72 min-w-(--radix-select-trigger-width) overflow-hidden border border-hairline bg-paper text-small text-ink shadow-md"
        >
          <Select.Viewport {...(nonce ? { nonce } : {})}>
            {options.map((o) => (
              <Select.Item
                key={o.value}
                value={o.value}
                className="cursor-default px-2.5 py-1 outline-none data-[highlighted]:bg-act-soft data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{o.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
