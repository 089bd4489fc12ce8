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
    }
}

diesel::table! {
    recordings (content) {
        content -> Text,
        name -> Text,
        frames -> Integer,
        rate_hz -> Integer,
        wav -> Binary,
        created_at -> Text,
    }
}

diesel::table! {
    library (id) {
        id -> Text,
        made_at -> Text,
    }
}

diesel::table! {
    kept (kind, name) {
        kind -> Text,
        name -> Text,
        document -> Text,
        changed_at -> Text,
    }
}

diesel::joinable!(versions -> patches (patch_id));
diesel::allow_tables_to_appear_in_same_query!(patches, versions, recordings);
