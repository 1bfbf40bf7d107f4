// Several quantities of one thing, from a list of what they are.
import { QuantityField } from "./fields";
import type { Dimension } from "../../ui/reading";

export type Quantity<Key extends string> = {
  key: Key;
  label: string;
  dimension: Dimension;
  /** may be left empty; the placeholder says what is taken then */
  optional?: boolean;
  /** 0 is refused at the field */
  positive?: boolean;
  placeholder?: string;
  hint?: string;
};

type Values<Key extends string> = { [K in Key]?: number | null };

/** `at` is the thing's place in the document: problems are shown at their fields. */
export function Quantities<Key extends string>({
  of,
  at,
  fields,
  onCommit,
}: {
  of: Values<Key>;
  at?: string;
  fields: readonly Quantity<Key>[];
  onCommit: (key: Key, value: number | null, label: string) => void;
}) {
  return fields.map(({ key, ...field }) => (
    <QuantityField
      key={key}
      {...field}
      value={of[key]}
      path={at && `${at}/${key}`}
      onCommit={(v) => (v !== null || field.optional) && onCommit(key, v, field.label)}
    />
  ));
}
