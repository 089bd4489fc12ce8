//! Parts read from a tree of JSON. `serde_json` makes the tree; what is made anew for every type then only looks into it, an error knows its
//! path, and the browser module is much smaller than with a reader of text made anew for every type.

use core::fmt::Display;

use serde::de::value::StrDeserializer;
use serde::de::{
    DeserializeSeed, Deserializer, EnumAccess, Error, Expected, MapAccess, SeqAccess, Unexpected,
    VariantAccess, Visitor,
};
use serde_json::{Map, Value};

use crate::misread::Misread;

/// What is wrong, with the path as far as it is known: each part around it puts itself before.
#[derive(Debug, thiserror::Error)]
#[error("{told}")]
pub struct Wrong {
    told: Box<Misread>,
    /// The list of kinds has no such name.
    is_unknown: bool,
}

impl Wrong {
    fn at(path: &str, problem: &dyn Display) -> Wrong {
        Wrong {
            told: Box::new(Misread {
                path: path.to_owned(),
                problem: problem.to_string(),
            }),
            is_unknown: false,
        }
    }

    /// Whether the kind that was named may be one of another list.
    pub fn is_of_another_list(&self) -> bool {
        self.is_unknown
    }

    fn within_field(mut self, name: &str) -> Wrong {
        let rest = &self.told.path;
        let dot = if rest.is_empty() || rest.starts_with('[') {
            ""
        } else {
            "."
        };
        self.told.path = format!("{name}{dot}{rest}");
        self
    }

    fn within_list(self, position: usize) -> Wrong {
        self.within_field(&format!("[{position}]"))
    }

    /// What is wrong and where; `.` is the root.
    pub fn told(self) -> Misread {
        let mut told = *self.told;
        if told.path.is_empty() {
            told.path.push('.');
        }
        told
    }
}

impl Error for Wrong {
    fn custom<T: Display>(problem: T) -> Self {
        Wrong::at("", &problem)
    }

    fn unknown_field(field: &str, expected: &'static [&'static str]) -> Self {
        let names = expected.join(", ");
        Wrong::at(
            field,
            &format_args!("unknown field {field:?}, expected one of {names}"),
        )
    }
}

/// A value of the tree.
#[derive(Clone, Copy)]
pub struct Node<'a>(pub &'a Value);

impl<'a> Node<'a> {
    fn unexpected(self) -> Unexpected<'a> {
        match self.0 {
            Value::Null => Unexpected::Unit,
            Value::Bool(b) => Unexpected::Bool(*b),
            Value::Number(n) => match n.as_i64() {
                Some(whole) => Unexpected::Signed(whole),
                None => Unexpected::Float(n.as_f64().unwrap_or(f64::NAN)),
            },
            Value::String(text) => Unexpected::Str(text),
            Value::Array(_) => Unexpected::Seq,
            Value::Object(_) => Unexpected::Map,
        }
    }

    #[cold]
    fn is_not(self, expected: &dyn Expected) -> Wrong {
        Wrong::invalid_type(self.unexpected(), expected)
    }

    fn number<'de, V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        let Value::Number(number) = self.0 else {
            return Err(self.is_not(&visitor));
        };
        match (number.as_u64(), number.as_i64()) {
            (Some(whole), _) => visitor.visit_u64(whole),
            (_, Some(whole)) => visitor.visit_i64(whole),
            _ => visitor.visit_f64(number.as_f64().unwrap_or(f64::NAN)),
        }
    }

    fn float<'de, V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self.0.as_f64() {
            Some(number) => visitor.visit_f64(number),
            None => Err(self.is_not(&visitor)),
        }
    }

    fn string<'de, V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::String(text) => visitor.visit_str(text),
            _ => Err(self.is_not(&visitor)),
        }
    }

    fn list<'de, V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        let Value::Array(items) = self.0 else {
            return Err(self.is_not(&visitor));
        };
        let mut items = Items { items, at: 0 };
        let read = visitor.visit_seq(&mut items)?;
        match items.items.len() {
            length if length == items.at => Ok(read),
            length => Err(Wrong::invalid_length(length, &"fewer")),
        }
    }

    fn object<'de, V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        self.object_but(None, visitor)
    }

    /// An object without one of its fields.
    fn object_but<'de, V: Visitor<'de>>(
        self,
        but: Option<&str>,
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::Object(fields) => visitor.visit_map(Fields {
                fields: fields.iter(),
                but,
                now: None,
            }),
            _ => Err(self.is_not(&visitor)),
        }
    }
}

macro_rules! all_as {
    ($how:ident: $($verb:ident)*) => {
        $(fn $verb<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
            self.$how(visitor)
        })*
    };
}

impl<'de> Deserializer<'de> for Node<'_> {
    type Error = Wrong;

    all_as! { number: deserialize_u8 deserialize_u16 deserialize_u32 deserialize_u64 deserialize_i8 deserialize_i16 deserialize_i32 deserialize_i64 }
    all_as! { float: deserialize_f32 deserialize_f64 }
    all_as! { string: deserialize_char deserialize_str deserialize_string deserialize_identifier }
    all_as! { list: deserialize_seq deserialize_bytes deserialize_byte_buf }
    all_as! { object: deserialize_map }

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::Null => visitor.visit_unit(),
            Value::Bool(b) => visitor.visit_bool(*b),
            Value::Number(_) => self.number(visitor),
            Value::String(_) => self.string(visitor),
            Value::Array(_) => self.list(visitor),
            Value::Object(_) => self.object(visitor),
        }
    }

    fn deserialize_bool<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::Bool(b) => visitor.visit_bool(*b),
            _ => Err(self.is_not(&visitor)),
        }
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::Null => visitor.visit_none(),
            _ => visitor.visit_some(self),
        }
    }

    fn deserialize_unit<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::Null => visitor.visit_unit(),
            _ => Err(self.is_not(&visitor)),
        }
    }

    fn deserialize_unit_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        self.deserialize_unit(visitor)
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        visitor.visit_newtype_struct(self)
    }

    fn deserialize_tuple<V: Visitor<'de>>(self, _: usize, visitor: V) -> Result<V::Value, Wrong> {
        self.list(visitor)
    }

    fn deserialize_tuple_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: usize,
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        self.list(visitor)
    }

    fn deserialize_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        self.object(visitor)
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        match self.0 {
            Value::String(name) => visitor.visit_enum(Variant {
                name,
                tag: None,
                holds: None,
            }),
            Value::Object(fields) => match one(fields) {
                Some((name, holds)) => visitor
                    .visit_enum(Variant {
                        name,
                        tag: None,
                        holds: Some(Node(holds)),
                    })
                    .map_err(|wrong| wrong.within_field(name)),
                None => Err(Wrong::custom("expected one field, named by the kind")),
            },
            _ => Err(self.is_not(&visitor)),
        }
    }

    fn deserialize_ignored_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Wrong> {
        visitor.visit_unit()
    }
}

/// An object that names its kind in one of its fields. It is read as a kind only.
#[derive(Clone, Copy)]
pub struct Kind<'a> {
    name: &'a str,
    tag: &'a str,
    tree: &'a Value,
}

impl<'a> Kind<'a> {
    /// Looks for the field.
    ///
    /// # Errors
    /// If it is no object, or has no such field that is a text.
    pub fn of(tree: &'a Value, tag: &'a str) -> Result<Kind<'a>, Wrong> {
        let named = tree.as_object().map(|fields| fields.get(tag));
        match named {
            Some(Some(Value::String(name))) => Ok(Kind { name, tag, tree }),
            Some(Some(other)) => Err(Node(other).is_not(&"a kind").within_field(tag)),
            Some(None) => Err(Wrong::custom(format_args!("missing field {tag:?}"))),
            None => Err(Node(tree).is_not(&"an object that names its kind")),
        }
    }

    /// What is said of a name no list has.
    pub fn unknown(&self) -> Wrong {
        let name = self.name;
        Wrong {
            is_unknown: true,
            ..Wrong::custom(format_args!("unknown {} `{name}`", self.tag))
        }
    }
}

impl<'de> Deserializer<'de> for Kind<'_> {
    type Error = Wrong;

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        _: &'static str,
        names: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        let read = visitor.visit_enum(Variant {
            name: self.name,
            tag: Some(self.tag),
            holds: Some(Node(self.tree)),
        });
        let is_unknown = !names.contains(&self.name);
        read.map_err(|wrong| Wrong {
            is_unknown,
            ..wrong
        })
    }

    fn deserialize_any<V: Visitor<'de>>(self, _: V) -> Result<V::Value, Wrong> {
        Err(Wrong::custom("is read as a kind only"))
    }

    serde::forward_to_deserialize_any! {
        bool i8 i16 i32 i64 u8 u16 u32 u64 f32 f64 char str string bytes byte_buf option unit unit_struct newtype_struct seq tuple tuple_struct
        map struct identifier ignored_any
    }
}

/// The only field of an object, if it has but one.
fn one(fields: &Map<String, Value>) -> Option<(&str, &Value)> {
    let mut all = fields.iter();
    let (name, value) = all.next()?;
    all.next().is_none().then_some((name, value))
}

struct Items<'a> {
    items: &'a [Value],
    at: usize,
}

impl<'de> SeqAccess<'de> for &mut Items<'_> {
    type Error = Wrong;

    fn next_element_seed<T: DeserializeSeed<'de>>(
        &mut self,
        seed: T,
    ) -> Result<Option<T::Value>, Wrong> {
        let Some(item) = self.items.get(self.at) else {
            return Ok(None);
        };
        let at = self.at;
        self.at += 1;
        let read = seed.deserialize(Node(item));
        read.map(Some).map_err(|wrong| wrong.within_list(at))
    }

    fn size_hint(&self) -> Option<usize> {
        Some(self.items.len() - self.at)
    }
}

struct Fields<'a> {
    fields: serde_json::map::Iter<'a>,
    but: Option<&'a str>,
    now: Option<(&'a str, &'a Value)>,
}

impl<'a> Fields<'a> {
    fn next(&mut self) -> Option<&'a str> {
        let but = self.but;
        let next = self.fields.find(|(name, _)| Some(name.as_str()) != but);
        self.now = next.map(|(name, value)| (name.as_str(), value));
        self.now.map(|(name, _)| name)
    }
}

impl<'de> MapAccess<'de> for Fields<'_> {
    type Error = Wrong;

    fn next_key_seed<K: DeserializeSeed<'de>>(
        &mut self,
        seed: K,
    ) -> Result<Option<K::Value>, Wrong> {
        match self.next() {
            Some(name) => seed.deserialize(StrDeserializer::new(name)).map(Some),
            None => Ok(None),
        }
    }

    fn next_value_seed<T: DeserializeSeed<'de>>(&mut self, seed: T) -> Result<T::Value, Wrong> {
        let (name, value) = self.now.unwrap_or(("", &Value::Null));
        let read = seed.deserialize(Node(value));
        read.map_err(|wrong| wrong.within_field(name))
    }
}

struct Variant<'a> {
    name: &'a str,
    /// The field that names the kind, where that stands among its own.
    tag: Option<&'a str>,
    holds: Option<Node<'a>>,
}

impl<'a, 'de> EnumAccess<'de> for Variant<'a> {
    type Error = Wrong;
    type Variant = Variant<'a>;

    fn variant_seed<V: DeserializeSeed<'de>>(
        self,
        seed: V,
    ) -> Result<(V::Value, Variant<'a>), Wrong> {
        let kind = seed.deserialize(StrDeserializer::new(self.name))?;
        Ok((kind, self))
    }
}

impl<'a> Variant<'a> {
    fn some(self) -> Node<'a> {
        self.holds.unwrap_or(Node(&Value::Null))
    }
}

impl<'de> VariantAccess<'de> for Variant<'_> {
    type Error = Wrong;

    fn unit_variant(self) -> Result<(), Wrong> {
        match (self.tag, self.holds) {
            (Some(_), _) | (_, None | Some(Node(Value::Null))) => Ok(()),
            (None, Some(node)) => Err(node.is_not(&"nothing")),
        }
    }

    fn newtype_variant_seed<T: DeserializeSeed<'de>>(self, seed: T) -> Result<T::Value, Wrong> {
        seed.deserialize(self.some())
    }

    fn tuple_variant<V: Visitor<'de>>(self, _: usize, visitor: V) -> Result<V::Value, Wrong> {
        self.some().list(visitor)
    }

    fn struct_variant<V: Visitor<'de>>(
        self,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Wrong> {
        let tag = self.tag;
        self.some().object_but(tag, visitor)
    }
}
