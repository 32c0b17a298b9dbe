import { DropdownMenu } from "radix-ui";
import { useState } from "react";

/** A row of a list as it is copied or exported: what is shown of it, by the names of its columns. */
type ExportRow = Record<string, string | number>;

interface Props {
  /** What the list is called; the file is named after it. */
  name: string;
  /** All rows, with the filters that are set. */
  rows: () => ExportRow[] | Promise<ExportRow[]>;
}

/** Copies a list as it is shown, or exports it. */
export function Export({ name, rows }: Props) {
  const [said, setSaid] = useState("");
  const save = async (ending: "csv" | "json") => {
    const list = await rows();
    const text = ending === "csv" ? csv(list) : `${JSON.stringify(list, null, 2)}\n`;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([text], { type: ending === "csv" ? "text/csv" : "application/json" }));
    link.download = `${name.toLowerCase().replaceAll(" ", "-")}.${ending}`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const copy = async () => {
    const list = await rows();
    await navigator.clipboard.writeText(list.map((row) => Object.values(row).join("\t")).join("\n"));
    setSaid("copied");
    setTimeout(() => setSaid(""), 2000);
  };
  const item = "block w-full cursor-default px-3 py-1 text-left outline-none data-[highlighted]:bg-act-soft";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`Copy or export: ${name}`}
        className="shrink-0 text-small text-act hover:underline data-[state=open]:font-semibold"
      >
        {said || "export"}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-20 min-w-40 border border-hairline bg-paper py-1 text-small text-ink shadow-md"
        >
          <DropdownMenu.Item className={item} onSelect={() => void copy()}>
            Copy the list
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={() => void save("csv")}>
            Save it as CSV
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={() => void save("json")}>
            Save it as JSON
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** A list as RFC 4180 has it. A cell that a spreadsheet would take for a formula begins with an apostrophe. */
function csv(rows: ExportRow[]): string {
  const names = Object.keys(rows[0] ?? {});
  const cell = (value: string | number) => {
    const text = typeof value === "string" && /^[=+@\t\r-]/.test(value) ? `'${value}` : String(value);
    return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  return [names, ...rows.map((row) => names.map((n) => row[n] ?? ""))]
    .map((line) => `${line.map(cell).join(",")}\r\n`)
    .join("");
}
