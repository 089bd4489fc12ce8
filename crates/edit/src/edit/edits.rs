//! All changes there are.

use serde::{Deserialize, Serialize};

use crate::arrangement::Place;
use crate::line::NewStrip;
use zolvik_patch::address::Address;
use zolvik_patch::document::KindName;
use zolvik_patch::document::{Bus, RouteKind};
use zolvik_patch::document::{ChainId, EffectId, GroupId, LinkId, RouteId, SourceId, UnitId};
use zolvik_patch::document::{Meta, Patch};
use zolvik_patch::envelope::Envelope;
use zolvik_patch::finish::{Effect, EffectName, EqBand};
use zolvik_patch::movement::shape::Turn;
use zolvik_patch::movement::{Direction, ShapePoint, Source, SourceName};
use zolvik_patch::param::ChoiceId;
use zolvik_patch::playing::{Phrase, PhraseNote, WheelPlace};
use zolvik_patch::scale::Scale;
use zolvik_patch::sound::Sound;
use zolvik_patch::wave::{OwnTable, TableId, Wave};

zolvik_json::kind_in_field!(Connect, "to");
zolvik_json::kind_in_field!(Edit, "do");

/// Where a new unit is connected: nothing arrives silent.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "to"))]
pub enum Connect {
    /// Heard at once.
    Output,
    /// Into the phase of this unit.
    Unit {
        /// The unit it modulates.
        id: UnitId,
    },
    /// Into the phase of each of these units.
    Units {
        /// The units it modulates.
        ids: Vec<UnitId>,
    },
    /// Into this filter, shaper or level strip, to be heard through it.
    Through {
        /// What it goes through.
        id: UnitId,
    },
    /// Beside the units of this group, or after all of them.
    Group {
        /// The group.
        id: GroupId,
    },
}

/// One change of a patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "do"))]
pub enum Edit {
    /// Sets one value.
    SetValue {
        /// Which value.
        address: Address,
        /// In the parameter's unit.
        value: f64,
    },
    /// Adds a unit, connected gently. A filter or shaper is put after the unit it is connected to, on its
    /// way out; connected to the output, everything that is heard goes through it.
    AddUnit {
        /// What it is.
        kind: KindName,
        connect: Connect,
    },
    /// Puts a filter, shaper or level strip on a route: what went along it goes through it, and on as strongly, to the same place.
    Insert {
        route: RouteId,
        /// What is put there, new.
        kind: KindName,
        /// The unit that is put there, if it is one of the patch; its own ways out are given up.
        unit: Option<UnitId>,
    },
    /// Adds strips typed as a line or pasted. Read here, never over the wire.
    #[serde(skip)]
    AddStrips {
        /// What they are and where they lead.
        strips: Vec<NewStrip>,
        /// The selected units: they go through a filter of which no more is said. None where all is as it was copied.
        selected: Option<Vec<UnitId>>,
    },
    /// Lets everything that is heard go through a filter or shaper.
    TakeThrough { unit: UnitId },
    /// Chooses one of a few.
    Choose {
        /// For which units; empty for the patch as a whole.
        units: Vec<UnitId>,
        /// What.
        choice: ChoiceId,
        /// Position of the option.
        at: usize,
    },
    /// Gives samples something to play. Chosen from a list or a checked file, never over the wire.
    #[serde(skip)]
    SetSound {
        units: Vec<UnitId>,
        /// What they play.
        sound: Box<Sound>,
    },
    /// Removes a unit and every route from or to it; what went through a filter or shaper goes on where that led.
    RemoveUnit { unit: UnitId },
    /// Copies units with all their routes, in and out; copies feed copies.
    DuplicateUnits { units: Vec<UnitId> },
    /// Names a unit.
    RenameUnit {
        unit: UnitId,
        /// The new name.
        name: String,
    },
    /// Switches a unit on or off.
    SwitchUnit {
        unit: UnitId,
        /// Whether it takes part.
        on: bool,
    },
    /// Adds a route, gently: small index, moderate level.
    AddRoute {
        /// The source.
        from: UnitId,
        /// The unit it moves; none for the output.
        to: Option<UnitId>,
        /// What it does there; of no account for the output.
        #[serde(default)]
        kind: RouteKind,
    },
    /// Makes a route do something else at its target, gently.
    SetRouteKind {
        route: RouteId,
        /// What it does from now on.
        kind: RouteKind,
    },
    /// Sends a route to the output another way; one that goes through a filter goes past it then, as loudly.
    SetBus {
        route: RouteId,
        /// Which way.
        bus: Bus,
    },
    /// Exchanges the places of two units in the routing; each keeps its sound.
    SwapUnits {
        /// One of them.
        unit: UnitId,
        /// The other.
        with: UnitId,
    },
    /// Takes a unit off the output and lets it move another one's phase instead.
    MakeModulator {
        unit: UnitId,
        /// The unit it moves.
        of: UnitId,
    },
    /// Lets a unit be heard, and takes it off the units it moved.
    MakeCarrier { unit: UnitId },
    /// Routes units anew. Routes between them that stay keep all their values. Made here, never over the wire.
    #[serde(skip)]
    Arrange {
        /// Where each unit leads.
        places: Vec<Place>,
    },
    /// Gives units a wave. Chosen from a list, never over the wire.
    #[serde(skip)]
    SetWave {
        units: Vec<UnitId>,
        /// The wave.
        wave: Wave,
    },
    /// Moves units up or down by octaves.
    ShiftOctaves {
        units: Vec<UnitId>,
        /// How many, with sign.
        octaves: i32,
    },
    /// Detunes units evenly around the middle of what they have.
    SpreadDetune {
        /// Which units, lowest first.
        units: Vec<UnitId>,
        /// From the lowest to the highest, in cents.
        spread_cents: f64,
    },
    /// Goes to the other of two states, keeping this one; the first time both are alike. Name, description and the
    /// auditioned note stay.
    Flip,
    /// Makes the other state like this one.
    CopyToOther,
    /// Adds a point to an envelope.
    AddPoint {
        /// Whose envelope.
        unit: UnitId,
        /// Where, in seconds from the press of the auditioned note.
        time_s: f64,
        /// 0 to 1.
        level: f64,
    },
    /// Takes a point out of an envelope.
    RemovePoint {
        /// Whose envelope.
        unit: UnitId,
        /// Position of the point.
        at: usize,
    },
    /// Makes a point the one that is held.
    HoldPoint {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// Position of the point.
        at: u8,
    },
    /// Lets the held note go round from a point, or stay.
    LoopFrom {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// Position of the point gone back to; none to stay.
        from: Option<u8>,
    },
    /// Ties times to the tempo, or lets them be seconds again; the auditioned note keeps its times.
    TieToTempo {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// Whether they follow the tempo.
        on: bool,
    },
    /// Gives units an envelope. Pasted or taken from the ready ones, never over the wire.
    #[serde(skip)]
    SetEnvelope {
        /// Whose envelopes.
        units: Vec<UnitId>,
        /// The envelope.
        envelope: Box<Envelope>,
    },
    /// Links envelopes, so that they are edited as one.
    LinkEnvelopes {
        /// Whose envelopes; the first is the one the others are made like.
        units: Vec<UnitId>,
        /// Made alike now and always; else each keeps its difference.
        equal: bool,
    },
    /// Takes envelopes out of their links.
    UnlinkEnvelopes {
        /// Whose envelopes.
        units: Vec<UnitId>,
    },
    /// Puts units into a group of their own, out of those they were in.
    GroupUnits { units: Vec<UnitId> },
    /// Dissolves a group; its units stay.
    Ungroup {
        /// Which group.
        group: GroupId,
    },
    /// Names a group.
    RenameGroup {
        /// Which group.
        group: GroupId,
        /// The new name.
        name: String,
    },
    /// Draws a group as one strip, or all of its strips again.
    FoldGroup {
        /// Which group.
        group: GroupId,
        /// Whether it is folded.
        folded: bool,
    },
    /// Adds an imported table. Comes from a checked file, never over the wire.
    #[serde(skip)]
    AddTable {
        /// The table; its number must be free.
        table: Box<OwnTable>,
    },
    /// Removes an imported table; units that use it repeat a sine.
    RemoveTable {
        /// Which table.
        table: TableId,
    },
    /// Tunes the keys; none for equal temperament. Comes from a checked file, never over the wire.
    #[serde(skip)]
    SetScale {
        /// The scale.
        scale: Option<Box<Scale>>,
    },
    /// Adds a source of movement, linked gently to values if some are named.
    AddSource {
        kind: SourceName,
        /// What it is to move.
        #[serde(default)]
        to: Vec<Address>,
    },
    /// Removes a source and all its links.
    RemoveSource { source: SourceId },
    /// Copies a source with its links.
    DuplicateSource { source: SourceId },
    /// Names a source.
    RenameSource {
        source: SourceId,
        /// The new name.
        name: String,
    },
    /// Switches a source on or off, with all it moves.
    SwitchSource {
        source: SourceId,
        /// Whether it moves anything.
        on: bool,
    },
    /// Chooses the strip a follower follows.
    Follow { source: SourceId, unit: UnitId },
    /// Links a source with values, gently; those it moves already stay as they are.
    AddLinks {
        from: SourceId,
        /// What it is to move.
        to: Vec<Address>,
    },
    /// Removes a link.
    RemoveLink { link: LinkId },
    /// Switches a link on or off.
    SwitchLink {
        link: LinkId,
        /// Whether it moves anything.
        on: bool,
    },
    /// Says which way a link takes its value.
    DirectLink {
        link: LinkId,
        /// Which way.
        direction: Direction,
    },
    /// Lets a second source bring a link's movement in; none for none.
    ScaleLink { link: LinkId, by: Option<SourceId> },
    /// Sends a link from another source.
    ResendLink { link: LinkId, from: SourceId },
    /// Turns a link upside down.
    TurnLink { link: LinkId },
    /// Turns all that a source moves round; of a macro what is at its ends changes places.
    TurnSource { source: SourceId },
    /// Lets a link go from one value to another: sets the value it moves and its amount.
    SetEnds {
        link: LinkId,
        /// The value at the source's low end.
        low: f64,
        /// The value at its high end.
        high: f64,
    },
    /// Lets a link go from one value at its source's low end to another at its high end: sets the value it moves and its amount.
    SetWay {
        link: LinkId,
        /// The value at the source's low end.
        low: f64,
        /// The value at its high end.
        high: f64,
    },
    /// Gives a link direction, share of the range, curve and second source of another one.
    LikeLink { link: LinkId, like: LinkId },
    /// Makes what the targets of a macro are now one of its ends, and turns it there.
    TakeEnd {
        source: SourceId,
        /// The high one.
        high: bool,
    },
    /// Lets a macro lead from this state to the other one: whatever can be moved and differs becomes its target.
    Morph { source: SourceId },
    /// Gives the patch a phrase to be tried with, or none. Read and checked here, never over the wire.
    #[serde(skip)]
    SetPhrase {
        /// The phrase.
        phrase: Option<Box<Phrase>>,
    },
    /// Names the phrase.
    RenamePhrase { name: String },
    /// Says after how many beats the phrase begins again.
    SetPhraseLength { beats: f64 },
    /// Puts a note into the phrase.
    AddNote { note: PhraseNote },
    /// Puts other notes in place of some.
    ChangeNotes {
        /// Positions, and what stands there from now on.
        notes: Vec<(usize, PhraseNote)>,
    },
    /// Takes notes out of the phrase.
    RemoveNotes {
        /// Positions.
        notes: Vec<usize>,
    },
    /// Draws a wheel of the phrase.
    SetTurns {
        /// The pitch bend; else the modulation wheel.
        bend: bool,
        turns: Vec<WheelPlace>,
    },
    /// Adds an articulation that is like what is heard now, and goes to it.
    AddArticulation { name: String },
    /// Removes an articulation; from the one that is heard it goes to the base.
    RemoveArticulation { at: u8 },
    /// Names an articulation.
    RenameArticulation { at: u8, name: String },
    /// Gives an articulation a key that switches to it, or none.
    KeyArticulation { at: u8, key: Option<u8> },
    /// Lets an articulation be heard and edited; none for the base.
    SwitchArticulation { at: Option<u8> },
    /// Settles what is different in the articulation that is heard.
    Settle {
        /// In which value; all if none.
        address: Option<Address>,
        /// As it is in the base; else the base becomes as it is here.
        take_back: bool,
    },
    /// Gives a source a drawn cycle.
    SetShape {
        source: SourceId,
        /// 2 to 64 points.
        points: Vec<ShapePoint>,
    },
    /// Adds a point to a drawn cycle.
    AddShapePoint {
        source: SourceId,
        /// Where in the cycle, 0 to 1.
        at: f64,
        /// 0 to 1.
        level: f64,
    },
    /// Takes a point out of a drawn cycle.
    RemoveShapePoint {
        source: SourceId,
        /// Position of the point.
        at: usize,
    },
    /// Puts a point of a drawn cycle elsewhere, between its neighbours.
    MoveShapePoint {
        source: SourceId,
        /// Position of the point.
        point: usize,
        /// Where in the cycle, 0 to 1.
        at: f64,
        /// 0 to 1.
        level: f64,
    },
    /// Turns a drawn cycle or the steps about.
    TurnShape {
        source: SourceId,
        /// How.
        how: Turn,
    },
    /// Says how many steps there are; new ones are like those from the beginning.
    SetStepCount {
        source: SourceId,
        /// 1 to 64.
        count: usize,
    },
    /// Puts a whole source in place of another, such as one that was pasted. Never over the wire.
    #[serde(skip)]
    SetSource {
        /// The source, with the number of the one it replaces.
        source: Box<Source>,
    },
    /// Puts a new effect into a chain, gently.
    AddEffect {
        chain: ChainId,
        kind: EffectName,
        /// Its place; none for the end.
        #[serde(default)]
        at: Option<usize>,
    },
    /// Puts copies of effects into a chain. Read here, never over the wire.
    #[serde(skip)]
    PasteEffects {
        chain: ChainId,
        /// Their place; none for the end.
        at: Option<usize>,
        effects: Vec<Effect>,
    },
    /// Takes an effect out.
    RemoveEffect { effect: EffectId },
    /// Copies an effect; the copy stands behind it.
    DuplicateEffect { effect: EffectId },
    /// Puts an effect elsewhere.
    MoveEffect {
        effect: EffectId,
        chain: ChainId,
        /// Its place among those that are there without it.
        at: usize,
    },
    /// Switches an effect on or off.
    SwitchEffect {
        effect: EffectId,
        /// Whether it does anything.
        on: bool,
    },
    /// Names an effect; empty for the name of its kind.
    RenameEffect { effect: EffectId, name: String },
    /// Gives an effect all another one has, such as a ready setting. Chosen from a list, never over the wire.
    #[serde(skip)]
    SetEffect { effect: EffectId, like: Box<Effect> },
    /// Names a chain.
    RenameChain { chain: ChainId, name: String },
    /// Lets a chain be heard or not.
    SwitchChain {
        chain: ChainId,
        /// Whether it is heard.
        on: bool,
    },
    /// Adds a band to an EQ.
    AddBand { effect: EffectId, band: EqBand },
    /// Takes a band out of an EQ.
    RemoveBand {
        effect: EffectId,
        /// Position of the band.
        at: usize,
    },
    /// Switches a band on or off.
    SwitchBand {
        effect: EffectId,
        /// Position of the band.
        at: usize,
        /// Whether it does anything.
        on: bool,
    },
    /// Chooses one of a few for a band.
    ChooseBand {
        effect: EffectId,
        /// Position of the band.
        at: usize,
        choice: ChoiceId,
        /// Position of the option.
        to: usize,
    },
    /// Removes a route.
    RemoveRoute { route: RouteId },
    /// Switches a route on or off.
    SwitchRoute {
        route: RouteId,
        /// Whether it takes part.
        on: bool,
    },
    /// Names and describes the patch.
    SetMeta {
        /// The new name, tags and note.
        meta: Meta,
    },
    /// Puts another whole patch in place, such as an earlier version. Comes from a checked file, never over
    /// the wire.
    #[serde(skip)]
    Replace {
        /// The patch.
        patch: Box<Patch>,
    },
    /// Several changes as one.
    Together {
        /// What was done, for the undo list.
        label: String,
        /// The changes, in order.
        edits: Vec<Edit>,
    },
}
