//! Kinds told apart by a field among their own, such as `{"do": "set_value", ...}`. Serde's own way keeps what it reads in a form of its own
//! and reads every part again from there by code made anew; this one looks into the same tree.

use serde::de::Error as _;
use serde::ser::{Error as _, Impossible, SerializeStruct, SerializeStructVariant};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use serde_json::Value;

use crate::tree::{Kind, Wrong};

/// Reads a kind: `read` is what serde derived for it, told apart from outside.
///
/// # Errors
/// If the field is missing, names no kind, or the kind's own fields are not as they should be.
pub fn read<'de, D: Deserializer<'de>, T>(
    from: D,
    tag: &str,
    read: impl FnOnce(Kind<'_>) -> Result<T, Wrong>,
) -> Result<T, D::Error> {
    let tree = Value::deserialize(from)?;
    let kind = Kind::of(&tree, tag);
    kind.and_then(read)
        .map_err(|wrong| D::Error::custom(wrong.told()))
}

/// Makes a type read and written with its kind in a field among its own. The type derives both with `#[serde(remote = "Self")]` and has no
/// kinds that hold an unnamed value.
#[macro_export]
macro_rules! kind_in_field {
    ($Type:ty, $tag:literal) => {
        $crate::kind_read_in_field!($Type, $tag);

        impl serde::Serialize for $Type {
            fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
                <$Type>::serialize(self, $crate::tagged::InField { to, tag: $tag })
            }
        }
    };
}

/// As `kind_in_field`, of what is only read.
#[macro_export]
macro_rules! kind_read_in_field {
    ($Type:ty, $tag:literal) => {
        impl<'de> serde::Deserialize<'de> for $Type {
            fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                $crate::tagged::read(from, $tag, |kind| <$Type>::deserialize(kind))
            }
        }
    };
}

/// An enum of enums that are told apart as if their kinds were of one: each derives its reader with `#[serde(remote = "Self")]`, as for
/// `kind_read_in_field`. So what is asked is one list to who asks, and a list for each subject to who answers.
#[macro_export]
macro_rules! kinds_read_in_field {
    (
        $(#[$meta:meta])*
        pub enum $Type:ident in $tag:literal {
            $($(#[$own:meta])* $Kind:ident($Part:ty),)*
        }
    ) => {
        $(#[$meta])*
        pub enum $Type {
            $($(#[$own])* $Kind($Part),)*
        }

        impl<'de> serde::Deserialize<'de> for $Type {
            fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                $crate::tagged::read(from, $tag, |kind| {
                    $(match <$Part>::deserialize(kind) {
                        Err(wrong) if wrong.is_of_another_list() => {}
                        read => return read.map($Type::$Kind),
                    })*
                    Err(kind.unknown())
                })
            }
        }
    };
}

/// Writes a kind with its name in a field before its own.
pub struct InField<S> {
    /// Where to.
    pub to: S,
    /// The field.
    pub tag: &'static str,
}

impl<S: Serializer> InField<S> {
    fn no<T>(self) -> Result<T, S::Error> {
        Err(S::Error::custom("is no kind with fields of its own"))
    }

    fn begin(
        self,
        name: &'static str,
        kind: &'static str,
        length: usize,
    ) -> Result<Own<S::SerializeStruct>, S::Error> {
        let mut own = self.to.serialize_struct(name, length + 1)?;
        own.serialize_field(self.tag, kind)?;
        Ok(Own(own))
    }
}

macro_rules! none {
    ($($verb:ident($what:ty))*) => {
        $(fn $verb(self, _: $what) -> Result<S::Ok, S::Error> {
            self.no()
        })*
    };
}

impl<S: Serializer> Serializer for InField<S> {
    type Ok = S::Ok;
    type Error = S::Error;
    type SerializeSeq = Impossible<S::Ok, S::Error>;
    type SerializeTuple = Impossible<S::Ok, S::Error>;
    type SerializeTupleStruct = Impossible<S::Ok, S::Error>;
    type SerializeTupleVariant = Impossible<S::Ok, S::Error>;
    type SerializeMap = Impossible<S::Ok, S::Error>;
    type SerializeStruct = Impossible<S::Ok, S::Error>;
    type SerializeStructVariant = Own<S::SerializeStruct>;

    none! { serialize_bool(bool) serialize_i8(i8) serialize_i16(i16) serialize_i32(i32) serialize_i64(i64) serialize_u8(u8) serialize_u16(u16)
    serialize_u32(u32) serialize_u64(u64) serialize_f32(f32) serialize_f64(f64) serialize_char(char) serialize_str(&str) serialize_bytes(&[u8])
    serialize_unit_struct(&'static str) }

    fn serialize_none(self) -> Result<S::Ok, S::Error> {
        self.no()
    }

    fn serialize_some<T: Serialize + ?Sized>(self, _: &T) -> Result<S::Ok, S::Error> {
        self.no()
    }

    fn serialize_unit(self) -> Result<S::Ok, S::Error> {
        self.no()
    }

    fn serialize_unit_variant(
        self,
        name: &'static str,
        _: u32,
        kind: &'static str,
    ) -> Result<S::Ok, S::Error> {
        SerializeStructVariant::end(self.begin(name, kind, 0)?)
    }

    fn serialize_newtype_struct<T: Serialize + ?Sized>(
        self,
        _: &'static str,
        _: &T,
    ) -> Result<S::Ok, S::Error> {
        self.no()
    }

    fn serialize_newtype_variant<T: Serialize + ?Sized>(
        self,
        _: &'static str,
        _: u32,
        _: &'static str,
        _: &T,
    ) -> Result<S::Ok, S::Error> {
        self.no()
    }

    fn serialize_seq(self, _: Option<usize>) -> Result<Self::SerializeSeq, S::Error> {
        self.no()
    }

    fn serialize_tuple(self, _: usize) -> Result<Self::SerializeTuple, S::Error> {
        self.no()
    }

    fn serialize_tuple_struct(
        self,
        _: &'static str,
        _: usize,
    ) -> Result<Self::SerializeTupleStruct, S::Error> {
        self.no()
    }

    fn serialize_tuple_variant(
        self,
        _: &'static str,
        _: u32,
        _: &'static str,
        _: usize,
    ) -> Result<Self::SerializeTupleVariant, S::Error> {
        self.no()
    }

    fn serialize_map(self, _: Option<usize>) -> Result<Self::SerializeMap, S::Error> {
        self.no()
    }

    fn serialize_struct(
        self,
        _: &'static str,
        _: usize,
    ) -> Result<Self::SerializeStruct, S::Error> {
        self.no()
    }

    fn serialize_struct_variant(
        self,
        name: &'static str,
        _: u32,
        kind: &'static str,
        length: usize,
    ) -> Result<Self::SerializeStructVariant, S::Error> {
        self.begin(name, kind, length)
    }
}

/// The kind's own fields.
pub struct Own<S>(S);

impl<S: SerializeStruct> SerializeStructVariant for Own<S> {
    type Ok = S::Ok;
    type Error = S::Error;

    fn serialize_field<T: Serialize + ?Sized>(
        &mut self,
        name: &'static str,
        value: &T,
    ) -> Result<(), S::Error> {
        self.0.serialize_field(name, value)
    }

    fn end(self) -> Result<S::Ok, S::Error> {
        self.0.end()
    }
}
