//! The tables, as the migrations make them.

diesel::table! {
    patches (id) {
        id -> Integer,
        name -> Text,
        revision -> Integer,
        created_at -> Text,
        changed_at -> Text,
        binned_at -> Nullable<Text>,
        tags -> Text,
        note -> Text,
        strips -> Integer,
        content -> Text,
        damage -> Nullable<Text>,
        seal -> Text,
        document -> Text,
    }
}

diesel::table! {
    versions (id) {
        id -> Integer,
        patch_id -> Integer,
        name -> Text,
        document -> Text,
        created_at -> Text,
        seal -> Text,
    }
}

diesel::table! {
    recordings (content) {
        content -> Text,
        name -> Text,
        frames -> Integer,
        rate_hz -> Integer,
        created_at -> Text,
        seal -> Text,
        wav -> Binary,
    }
}

diesel::table! {
    library (id) {
        id -> Text,
        made_at -> Text,
        seal -> Text,
    }
}

diesel::table! {
    kept (kind, name) {
        kind -> Text,
        name -> Text,
        document -> Text,
        changed_at -> Text,
        seal -> Text,
    }
}

diesel::table! {
    steps (patch_id, side, place) {
        patch_id -> Integer,
        side -> Text,
        place -> BigInt,
        label -> Text,
        difference -> Text,
        seal -> Text,
    }
}

diesel::table! {
    beside (patch_id) {
        patch_id -> Integer,
        why -> Text,
        kept_at -> Text,
        document -> Text,
        seal -> Text,
    }
}

diesel::joinable!(versions -> patches (patch_id));
diesel::allow_tables_to_appear_in_same_query!(patches, versions, recordings);
