// Several views of one thing, one at a time.
import { Tabs } from "radix-ui";
import type { ReactNode } from "react";

export type View = readonly [key: string, name: string, content: ReactNode];

export function Views({
  label,
  views,
  view,
  choose,
  className = "",
}: {
  label: string;
  views: readonly View[];
  view: string;
  choose: (key: string) => void;
  className?: string;
}) {
  return (
    <Tabs.Root value={view} onValueChange={choose} className={className}>
      <Tabs.List aria-label={label} className="flex flex-wrap gap-x-5 gap-y-1 px-1 print:hidden">
        {views.map(([key, name]) => (
          <Tabs.Trigger
            key={key}
            value={key}
            className="text-soft hover:text-ink data-[state=active]:border-ink data-[state=active]:text-ink min-h-9 border-b-2 border-transparent text-[0.9375rem] font-medium"
          >
            {name}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {views.map(([key, , content]) => (
        <Tabs.Content key={key} value={key} className="mt-3">
          {content}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}
