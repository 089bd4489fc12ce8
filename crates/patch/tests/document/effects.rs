//! Where the parameters of effects stand.

use zolvik_patch::finish::effect::{
    EffectName, MAX_EFFECT_PARAMS, band_position, effect_params, effect_position,
};
use zolvik_patch::finish::{EqBand, MAX_EQ_BANDS};

#[test]
fn positions_count_through_the_parameters_of_each_kind_and_fit() {
    for kind in EffectName::ALL {
        for (at, row) in effect_params(*kind).enumerate() {
            assert_eq!(effect_position(row.id), at, "{}", row.name);
            assert!(at < MAX_EFFECT_PARAMS);
        }
        assert!(kind.main_values().len() <= 4);
        let choices = kind.rows().iter().map(|r| r.choices.len()).sum::<usize>();
        assert!(choices <= 4, "{}", kind.label());
    }
    assert!(band_position(MAX_EQ_BANDS - 1, EqBand::Q) < MAX_EFFECT_PARAMS);
}
