//! Quantities in JSON Schemas of files: texts with a unit.

use std::borrow::Cow;

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};

use super::{Dimension, Quantity, Range};

impl<D: Dimension> JsonSchema for Quantity<D> {
    fn inline_schema() -> bool {
        true
    }

    fn schema_name() -> Cow<'static, str> {
        "quantity".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({ "type": "string", "description": format!("{}, with its unit", D::NAME) })
    }
}

impl<D: Dimension> JsonSchema for Range<Quantity<D>> {
    fn inline_schema() -> bool {
        true
    }

    fn schema_name() -> Cow<'static, str> {
        "range".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({ "type": "string", "description": format!("from {0} to {0}, as LOW..HIGH", D::NAME) })
    }
}
