/** JSON Schema (draft 2020-12), as far as the published schemas of documents use it. */
export type Schema = {
  $ref?: string;
  $defs?: Record<string, Schema>;
  type?: string | string[];
  enum?: unknown[];
  anyOf?: Schema[];
  items?: Schema;
  properties?: Record<string, Schema>;
  additionalProperties?: boolean | Schema;
  required?: string[];
  maxProperties?: number;
  description?: string;
};

/** A value of a document, as JSON. */
export type Value = null | string | number | boolean | Value[] | { [key: string]: Value };
export type Members = { [key: string]: Value };

/** What a value of a schema is made of, and which control edits it. */
export type Shape =
  | { is: "text" }
  | { is: "number" }
  | { is: "yesNo" }
  | { is: "choice"; values: (string | null)[] }
  /** An object with known keys; of sole only one of them. */
  | { is: "object"; name: string; keys: Record<string, Schema>; required: string[]; sole: boolean }
  | { is: "list"; items: Schema }
  /** An object whose keys are free. */
  | { is: "map"; values: Schema }
  | { is: "either"; shapes: Schema[] }
  | { is: "any" };

const def = /^#\/\$defs\/(.*)$/;

/** The shape of a schema, within the schema of the document. */
export function shapeOf(root: Schema, schema: Schema): Shape {
  const name = schema.$ref?.match(def)?.[1];
  if (name !== undefined) return shapeOf(root, { ...root.$defs?.[name], $ref: undefined, type: name });
  if (schema.enum) return { is: "choice", values: schema.enum.map((v) => (v === null ? null : String(v))) };
  if (schema.anyOf) return { is: "either", shapes: schema.anyOf };
  if (schema.properties)
    return {
      is: "object",
      name: String(schema.type ?? ""),
      keys: schema.properties,
      required: schema.required ?? [],
      sole: schema.maxProperties === 1,
    };
  if (schema.items) return { is: "list", items: schema.items };
  if (typeof schema.additionalProperties === "object") return { is: "map", values: schema.additionalProperties };
  const types = [schema.type ?? []].flat();
  if (types.includes("string")) return { is: "text" };
  if (types.includes("boolean")) return { is: "yesNo" };
  if (types.includes("integer")) return { is: "number" };
  return { is: "any" };
}

export const isMembers = (v: Value | undefined): v is Members =>
  typeof v === "object" && v !== null && !Array.isArray(v);

/** Whether a value may be of a shape, told by its kind and the names of its keys. */
export function fits(root: Schema, schema: Schema, value: Value): boolean {
  const shape = shapeOf(root, schema);
  switch (shape.is) {
    case "text":
      return typeof value !== "object";
    case "number":
      return typeof value === "number";
    case "yesNo":
      return typeof value === "boolean";
    case "choice":
      return shape.values.includes(value as string | null);
    case "object":
      return isMembers(value) && Object.keys(value).every((k) => k in shape.keys);
    case "list":
      return Array.isArray(value);
    case "map":
      return isMembers(value);
    case "either":
      return shape.shapes.some((s) => fits(root, s, value));
    default:
      return true;
  }
}

/** A value of a shape to begin with. */
export function blank(root: Schema, schema: Schema): Value {
  const shape = shapeOf(root, schema);
  switch (shape.is) {
    case "number":
      return 0;
    case "yesNo":
      return true;
    case "choice":
      return shape.values[0] ?? null;
    case "object":
    case "map":
      return {};
    case "list":
      return [];
    case "either":
      return blank(root, shape.shapes[0] ?? {});
    default:
      return "";
  }
}
