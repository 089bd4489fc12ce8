//! JSON text as a tree. The usual reader lets the last of two fields of one name count without a word; here that is a fault.

use serde::de::{Deserialize, Deserializer, Error, MapAccess, SeqAccess, Visitor};
use serde_json::{Map, Number, Value};

use crate::outside::quoted;

/// A tree in which no field of an object stands twice.
pub struct Whole(pub Value);

impl<'de> Deserialize<'de> for Whole {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_any(Parts).map(Whole)
    }
}

struct Parts;

impl<'de> Visitor<'de> for Parts {
    type Value = Value;

    fn expecting(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.write_str("JSON")
    }

    fn visit_unit<E: Error>(self) -> Result<Value, E> {
        Ok(Value::Null)
    }

    fn visit_bool<E: Error>(self, is: bool) -> Result<Value, E> {
        Ok(Value::Bool(is))
    }

    fn visit_u64<E: Error>(self, number: u64) -> Result<Value, E> {
        Ok(Value::Number(number.into()))
    }

    fn visit_i64<E: Error>(self, number: i64) -> Result<Value, E> {
        Ok(Value::Number(number.into()))
    }

    fn visit_f64<E: Error>(self, number: f64) -> Result<Value, E> {
        let number = Number::from_f64(number);
        number
            .map(Value::Number)
            .ok_or_else(|| E::custom("number out of range"))
    }

    fn visit_str<E: Error>(self, text: &str) -> Result<Value, E> {
        Ok(Value::String(text.to_owned()))
    }

    fn visit_string<E: Error>(self, text: String) -> Result<Value, E> {
        Ok(Value::String(text))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut items: A) -> Result<Value, A::Error> {
        let mut list = vec![];
        while let Some(Whole(item)) = items.next_element()? {
            list.push(item);
        }
        Ok(Value::Array(list))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut fields: A) -> Result<Value, A::Error> {
        let mut map = Map::new();
        while let Some(name) = fields.next_key::<String>()? {
            if map.contains_key(&name) {
                let name = quoted(&name);
                return Err(A::Error::custom(format_args!(
                    "the field {name} stands twice"
                )));
            }
            let Whole(value) = fields.next_value()?;
            map.insert(name, value);
        }
        Ok(Value::Object(map))
    }
}
