//! Routes: who feeds whom, what it does there, and how strongly.

use serde::{Deserialize, Serialize};

use crate::ids::{RouteId, UnitId};
use crate::params::choice::options;
use crate::params::param::{Owner, ParamId, PartId, Quantity as Q};
use crate::params::part::{Number, Part, Rows};
use crate::params::section::SectionId as S;
use crate::parts::look::{Spot, look};

/// A way from one unit to another or to the output.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Route {
    /// Stable number.
    pub id: RouteId,
    /// The source.
    pub from: UnitId,
    /// Whether it takes part.
    pub on: bool,
    /// Where it goes, and how strongly.
    pub send: Send,
}

options! {
    /// Which way out a sound takes.
    pub enum Bus {
        /// Through the main chain of effects.
        #[default]
        Main,
        /// Through the second chain.
        Second,
        /// Past all effects.
        Clean,
    }
}

options! {
    /// What a route does at its destination, the commonest first.
    pub enum RouteKind {
        /// Moves the phase.
        #[default]
        Phase,
        /// Moves the frequency through zero.
        Frequency,
        /// Multiplies.
        Ring,
        /// Moves the level.
        Amplitude,
        /// Is what it works on.
        Audio,
    }
}

/// Where a route ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Destination {
    /// At a unit.
    Unit(UnitId),
    /// At the output.
    Output,
}

/// One block for each kind of route to a unit, and one for the output: its values, as in [`crate::params::part`]. The first value of
/// each is its depth.
macro_rules! sends {
    (
        $($(#[$meta:meta])* $Kind:ident $label:literal $path:literal {
            $($(#[$vmeta:meta])* $ID:ident $field:ident = $default:literal, $min:literal..$max:literal, $look:expr, $help:literal;)*
        })*
        ---
        $(#[$ometa:meta])* Output $opath:literal {
            $($OID:ident $ofield:ident = $odefault:literal, $omin:literal..$omax:literal, $olook:expr, $ohelp:literal;)*
        }
    ) => {
        /// Where a route goes, and how strongly.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum Send {
            $(
                $(#[$meta])*
                $Kind {
                    /// The unit it ends at.
                    to: UnitId,
                    $(#[doc = $help] $(#[$vmeta])* $field: f64,)*
                },
            )*
            $(#[$ometa])*
            Output {
                $(#[doc = $ohelp] $ofield: f64,)*
                /// Which way out it takes.
                #[serde(default)]
                bus: Bus,
            },
        }

        const _: () = {
            #[allow(non_camel_case_types, dead_code, clippy::upper_case_acronyms)]
            enum Value { $($($ID,)*)* $($OID,)* }

            impl Send {
                $($(
                    #[doc = $help]
                    pub const $ID: ParamId = ParamId { part: PartId::Send, row: Value::$ID as u8 };
                )*)*
                $(
                    #[doc = $ohelp]
                    pub const $OID: ParamId = ParamId { part: PartId::Send, row: Value::$OID as u8 };
                )*

                /// Its rows.
                pub const ROWS: Rows = Rows {
                    params: &[
                        $($($look.row(
                            Spot {
                                id: Send::$ID,
                                owner: Owner::Route,
                                name: concat!("route.", stringify!($field)),
                                field: stringify!($field),
                                path: $path,
                            },
                            ($min, $max), $default, $help,
                        ),)*)*
                        $($olook.row(
                            Spot {
                                id: Send::$OID,
                                owner: Owner::Route,
                                name: concat!("route.", stringify!($ofield)),
                                field: stringify!($ofield),
                                path: $opath,
                            },
                            ($omin, $omax), $odefault, $ohelp,
                        ),)*
                    ],
                    choices: &[],
                };

                /// A new route into a unit, gentle at first.
                pub fn to_unit(kind: RouteKind, to: UnitId) -> Self {
                    match kind { $(RouteKind::$Kind => Send::$Kind { to, $($field: $default,)* },)* }
                }

                /// A new route to the output, at a level that is never too loud.
                pub fn output() -> Self {
                    Send::Output { $($ofield: $odefault,)* bus: Bus::Main }
                }

                /// What it does at its destination; none for the output.
                pub fn kind(&self) -> Option<RouteKind> {
                    match self {
                        $(Send::$Kind { .. } => Some(RouteKind::$Kind),)*
                        Send::Output { .. } => None,
                    }
                }

                /// Where it ends.
                pub fn destination(&self) -> Destination {
                    match self {
                        $(Send::$Kind { to, .. } => Destination::Unit(*to),)*
                        Send::Output { .. } => Destination::Output,
                    }
                }

                /// The unit it leads to; none for the output.
                pub fn target(&self) -> Option<UnitId> {
                    match self.destination() {
                        Destination::Unit(to) => Some(to),
                        Destination::Output => None,
                    }
                }

                /// Leads it to another unit; a route to the output stays one.
                pub fn redirect(&mut self, target: UnitId) {
                    match self {
                        $(Send::$Kind { to, .. } => *to = target,)*
                        Send::Output { .. } => {}
                    }
                }
            }

            impl RouteKind {
                /// As it is called on the screen.
                pub fn label(self) -> &'static str {
                    match self { $(RouteKind::$Kind => $label,)* }
                }

                /// The parameter that says how strong a route of this kind is.
                pub fn depth(self) -> ParamId {
                    match self { $(RouteKind::$Kind => [$(Send::$ID),*][0],)* }
                }
            }

            impl Part for Send {
                fn get(&self, id: ParamId) -> Option<f64> {
                    match (id, self) {
                        $($((Send::$ID, Send::$Kind { $field, .. }) => Some(*$field),)*)*
                        $((Send::$OID, Send::Output { $ofield, .. }) => Some(*$ofield),)*
                        _ => None,
                    }
                }
                fn slot(&mut self, id: ParamId) -> Option<&mut dyn Number> {
                    match (id, self) {
                        $($((Send::$ID, Send::$Kind { $field, .. }) => Some($field),)*)*
                        $((Send::$OID, Send::Output { $ofield, .. }) => Some($ofield),)*
                        _ => None,
                    }
                }
                fn chosen(&self, _: crate::params::param::ChoiceId) -> Option<usize> {
                    None
                }
                fn choose(&mut self, _: crate::params::param::ChoiceId, _: usize) -> Option<()> {
                    None
                }
            }
        };
    };
}

sends! {
    /// Moves the phase of another unit, or of itself (feedback).
    Phase "phase" "send.phase." {
        INDEX_RAD index_rad = 0.5, 0.0..40.0, look("Index", Q::Radians, S::Route).power(2.5).step(0.1, 0.01).decimals(2),
            "Modulation index: the greatest phase shift, in radians. More is brighter.";
    }
    /// Moves the frequency of a unit, evenly up and down and through zero.
    Frequency "frequency" "send.frequency." {
        DEVIATION deviation = 0.25, 0.0..32.0, look("Deviation", Q::Ratio, S::Route).power(3.0).step(0.1, 0.01).decimals(3),
            "Greatest change of frequency either way, as a multiple of the target's own; above 1 it runs through zero.";
    }
    /// Multiplies a unit's sound: 0 leaves it as it is, 1 is the product alone.
    Ring "ring" "send.ring." {
        MIX mix = 0.25, 0.0..1.0, look("Mix", Q::Share, S::Route).step(0.05, 0.01),
            "From the target alone to the product of both.";
    }
    /// Makes a unit's sound rise and fall: the factor is `1 + amount * source`.
    Amplitude "amplitude" "send.amplitude." {
        AMOUNT amount = 0.25, 0.0..1.0, look("Amount", Q::Share, S::Route).step(0.05, 0.01),
            "How far the target's level rises and falls.";
    }
    /// Goes into a filter or shaper.
    Audio "audio" "send.audio." {
        PASS_DB pass_db = 0.0, -72.0..12.0, look("Level", Q::Level, S::Route).step(1.0, 0.1).decimals(1),
            "How strongly it goes in. The lowest value is nothing.";
        #[serde(default, skip_serializing_if = "is_middle")]
        PASS_PAN pass_pan = 0.0, -1.0..1.0, look("Pan", Q::Pan, S::Route).step(0.05, 0.01),
            "Place between left and right, at equal power; what it goes through works in stereo from there on.";
    }
    ---
    /// Is heard.
    Output "send.output." {
        LEVEL_DB level_db = -12.0, -72.0..6.0, look("Level", Q::Level, S::Route).step(1.0, 0.1).decimals(1),
            "How loudly it is heard. The lowest value is silence.";
        PAN pan = 0.0, -1.0..1.0, look("Pan", Q::Pan, S::Route).step(0.05, 0.01),
            "Place between left and right, at equal power.";
    }
}

fn is_middle(pan: &f64) -> bool {
    *pan == 0.0
}

impl Send {
    /// A new route into a unit's phase, gentle at first.
    pub fn phase(to: UnitId) -> Self {
        Send::to_unit(RouteKind::Phase, to)
    }

    /// The parameter that says how strong it is.
    pub fn depth(&self) -> ParamId {
        self.kind().map_or(Send::LEVEL_DB, RouteKind::depth)
    }

    /// How strong it is: radians, multiples, shares, or for audio and the output the factor its level stands for.
    pub fn strength(&self) -> f64 {
        let id = self.depth();
        let value = self.get(id).unwrap_or(0.0);
        let row = &Send::ROWS.params[id.at()];
        match row.quantity {
            Q::Level => row.gain(value),
            _ => value,
        }
    }

    /// Whether its sound goes on through it: into a filter or shaper, or out.
    pub fn is_way_out(&self) -> bool {
        matches!(self.kind(), None | Some(RouteKind::Audio))
    }
}
