"""As much of JSON Schema (2020-12) as the published documents use, to check frames against asyncapi.json."""
import json
import re

TYPES = {
    "object": dict,
    "array": list,
    "string": str,
    "boolean": bool,
    "null": type(None),
    "number": (int, float),
    "integer": int,
}
KNOWN = set(
    "$ref type const enum anyOf oneOf allOf properties required additionalProperties propertyNames items prefixItems "
    "minItems maxItems minLength maxLength pattern minimum maximum exclusiveMinimum exclusiveMaximum "
    "description title default discriminator format examples id minProperties maxProperties".split()
)


class Documents:
    def __init__(self, file):
        with open(file, encoding="utf-8") as opened:
            self.document = json.load(opened)
        self.messages = self.document["components"]["messages"]

    def faults(self, message, value):
        """What does not fit the payload of a message, as sentences; empty when all fits."""
        return list(self._check(self.messages[message]["payload"], value, message))

    def _resolve(self, reference):
        found = self.document
        for part in reference.lstrip("#/").split("/"):
            found = found[part]
        return found

    def _check(self, schema, value, path):
        if schema is True or schema == {}:
            return
        unknown = set(schema) - KNOWN
        assert not unknown, f"the checker does not know {unknown} at {path}"
        if "$ref" in schema:
            yield from self._check(self._resolve(schema["$ref"]), value, path)
        for part in schema.get("allOf", []):
            yield from self._check(part, value, path)
        for kind in ("anyOf", "oneOf"):
            if kind in schema and all(any(True for _ in self._check(part, value, path)) for part in schema[kind]):
                yield f"{path}: {json.dumps(value)[:200]} fits none of the forms"
        if "const" in schema and value != schema["const"]:
            yield f"{path}: {value!r} is not {schema['const']!r}"
        if "enum" in schema and value not in schema["enum"]:
            yield f"{path}: {value!r} is none of {schema['enum']}"
        if "type" in schema and not self._is(schema["type"], value):
            yield f"{path}: {value!r} is not of type {schema['type']}"
        elif isinstance(value, dict):
            yield from self._object(schema, value, path)
        elif isinstance(value, list):
            yield from self._array(schema, value, path)
        elif isinstance(value, str):
            if not schema.get("minLength", 0) <= len(value) <= schema.get("maxLength", len(value)):
                yield f"{path}: {len(value)} characters are too few or too many"
            if "pattern" in schema and not re.search(schema["pattern"], value):
                yield f"{path}: {value!r} does not match {schema['pattern']}"
        elif isinstance(value, (int, float)) and not isinstance(value, bool):
            if value < schema.get("minimum", value) or value > schema.get("maximum", value):
                yield f"{path}: {value} is out of range"

    def _is(self, kinds, value):
        for kind in kinds if isinstance(kinds, list) else [kinds]:
            if isinstance(value, bool) and kind != "boolean":
                continue
            if isinstance(value, TYPES[kind]) or (kind == "integer" and isinstance(value, float) and value.is_integer()):
                return True
        return False

    def _object(self, schema, value, path):
        known = schema.get("properties", {})
        for name in schema.get("required", []):
            if name not in value:
                yield f"{path}: {name} is missing"
        for name, inner in value.items():
            if name in known:
                yield from self._check(known[name], inner, f"{path}.{name}")
            elif schema.get("additionalProperties") is False:
                yield f"{path}: {name} is not allowed"
            elif isinstance(schema.get("additionalProperties"), dict):
                yield from self._check(schema["additionalProperties"], inner, f"{path}.{name}")
            if "propertyNames" in schema:
                yield from self._check(schema["propertyNames"], name, f"{path}, the name {name}")

    def _array(self, schema, value, path):
        if not schema.get("minItems", 0) <= len(value) <= schema.get("maxItems", len(value)):
            yield f"{path}: {len(value)} items are too few or too many"
        first = schema.get("prefixItems", [])
        for at, inner in enumerate(value):
            rule = first[at] if at < len(first) else schema.get("items", True)
            if isinstance(rule, dict):
                yield from self._check(rule, inner, f"{path}[{at}]")
