//! How the routing is drawn: the lanes of the rails.

use serde::{Deserialize, Serialize};
use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{RouteId, UnitId};
use zolvik_patch::document::{RouteKind, Send};

use zolvik_patch::graph::rows;

/// One trunk beside the strips: all routes of one source that run the same way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Rail {
    /// The source.
    pub from: UnitId,
    /// Its row.
    pub row: usize,
    /// 0 is nearest to the strips.
    pub lane: usize,
    /// Whether it runs upward, against the order of the strips.
    pub upward: bool,
    /// Where it goes, nearest target first.
    pub branches: Vec<Branch>,
}

/// One route on a rail.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Branch {
    pub route: RouteId,
    /// Row of its target; the row below the last strip is the output rail.
    pub row: usize,
    /// Place among the routes arriving at that row, from above.
    pub slot: usize,
    /// Routes arriving at that row.
    pub slots: usize,
    /// Thickness, 0 to 1.
    pub weight: f64,
    /// What it does at its target; none for the output.
    pub kind: Option<RouteKind>,
    /// Whether it passes anything.
    pub on: bool,
}

/// How deep a route is, 0 to 1, for the thickness of its rail.
pub fn weight(send: &Send) -> f64 {
    match send.depth() {
        id @ (Send::INDEX_RAD | Send::DEVIATION) => param(id).place(send.strength()),
        Send::PASS_DB | Send::LEVEL_DB => send.strength().min(1.0).sqrt(),
        _ => send.strength(),
    }
}

/// The rails of a patch, with lanes so that no two trunks overlap. Self-feedback is a rail of its own whose
/// one branch ends at its own row.
pub fn rails(patch: &Patch) -> Vec<Rail> {
    let order = rows(patch);
    let row_of = |id: UnitId| order.iter().position(|o| *o == id).unwrap_or(0);
    let mut rails = Vec::new();
    for (row, from) in order.iter().enumerate() {
        let branches = |keep: &dyn Fn(usize) -> bool| {
            let mut list: Vec<Branch> = patch
                .sends(*from)
                .map(|r| (r, r.send.target().map_or(order.len(), row_of)))
                .filter(|(_, to)| keep(*to))
                .map(|(r, to)| Branch {
                    route: r.id,
                    row: to,
                    slot: 0,
                    slots: 1,
                    weight: weight(&r.send),
                    kind: r.send.kind(),
                    on: r.on,
                })
                .collect();
            list.sort_by_key(|b| b.row.abs_diff(row));
            list
        };
        let ways = [
            (branches(&|to| to == row), false),
            (branches(&|to| to > row), false),
            (branches(&|to| to < row), true),
        ];
        for (branches, upward) in ways {
            if !branches.is_empty() {
                rails.push(Rail {
                    from: *from,
                    row,
                    lane: 0,
                    upward,
                    branches,
                });
            }
        }
    }
    allot_lanes(&mut rails);
    allot_slots(&mut rails);
    rails
}

/// Short downward trunks take the inner lanes, upward ones the outer; a lane is reused where it is free.
fn allot_lanes(rails: &mut [Rail]) {
    let span = |r: &Rail| {
        let far = r.branches.last().map_or(r.row, |b| b.row);
        (r.row.min(far), r.row.max(far))
    };
    let mut order: Vec<usize> = (0..rails.len())
        .filter(|i| span(&rails[*i]).0 != span(&rails[*i]).1)
        .collect();
    order.sort_by_key(|i| (rails[*i].upward, span(&rails[*i]).1 - span(&rails[*i]).0));
    let mut taken: Vec<Vec<(usize, usize)>> = Vec::new();
    let mut first_upward = 0;
    for i in order {
        let (top, bottom) = span(&rails[i]);
        let start = if rails[i].upward { first_upward } else { 0 };
        let free = |lane: &Vec<(usize, usize)>| lane.iter().all(|(a, b)| bottom <= *a || *b <= top);
        let lane = (start..taken.len())
            .find(|l| free(&taken[*l]))
            .unwrap_or(taken.len());
        taken.resize_with(taken.len().max(lane + 1), Vec::new);
        taken[lane].push((top, bottom));
        rails[i].lane = lane;
        if !rails[i].upward {
            first_upward = first_upward.max(lane + 1);
        }
    }
}

fn allot_slots(rails: &mut [Rail]) {
    let last = rails
        .iter()
        .flat_map(|r| &r.branches)
        .map(|b| b.row)
        .max()
        .unwrap_or(0);
    for row in 0..=last {
        let own_loop = |r: &Rail, b: &Branch| r.row == b.row;
        let mut here: Vec<(usize, usize)> = Vec::new();
        for (i, rail) in rails.iter().enumerate() {
            let arriving = rail
                .branches
                .iter()
                .enumerate()
                .filter(|(_, b)| b.row == row && !own_loop(rail, b));
            here.extend(arriving.map(|(j, _)| (i, j)));
        }
        // outer lanes arrive below inner ones, so that rails cross as little as can be
        here.sort_by_key(|(i, _)| rails[*i].lane);
        let slots = here.len();
        for (slot, (i, j)) in here.into_iter().enumerate() {
            rails[i].branches[j].slot = slot;
            rails[i].branches[j].slots = slots;
        }
    }
}
