//! The application as one router.

use std::sync::{Arc, Mutex};

use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue, StatusCode, header};
use axum::{Json, Router, middleware, routing};
use tower_http::compression::CompressionLayer;
use tower_http::set_header::SetResponseHeaderLayer;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use zolvik_patch::json;
use zolvik_store::{Store, StoreError};

use crate::problem::Problem;
use crate::{api, assets, gate, sounds};

/// Largest request body, in bytes: the largest patch file, quoted as it is inside of JSON.
pub const MAX_BODY: usize = json::MAX_BYTES / 2 * 3;

/// What the handlers share.
#[derive(Clone)]
pub struct App {
    store: Arc<Mutex<Store>>,
}

impl App {
    /// An application on an open store.
    pub fn new(store: Store) -> Self {
        App {
            store: Arc::new(Mutex::new(store)),
        }
    }

    /// Does something with the store, off the threads that answer requests.
    ///
    /// # Errors
    /// What the store says, as a problem.
    pub async fn with_store<T: Send + 'static>(
        &self,
        act: impl FnOnce(&mut Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, Problem> {
        let store = Arc::clone(&self.store);
        let done = tokio::task::spawn_blocking(move || {
            // a panic elsewhere leaves SQLite whole: each call is its own transaction
            let mut store = store
                .lock()
                .unwrap_or_else(std::sync::PoisonError::into_inner);
            act(&mut store)
        });
        match done.await {
            Ok(result) => Ok(result?),
            Err(error) => Err(Problem::new(
                StatusCode::INTERNAL_SERVER_ERROR,
                "the server failed",
                error.to_string(),
            )),
        }
    }
}

#[derive(OpenApi)]
#[openapi(info(
    title = "Zolvik",
    description = "Patches of frequency- and phase-modulation sounds"
))]
struct Described;

/// The application, answering requests addressed to this port.
pub fn router(app: App, port: u16) -> Router {
    let (routes, described) = OpenApiRouter::with_openapi(Described::openapi())
        .routes(routes!(api::list, api::create))
        .routes(routes!(api::read, api::save, api::rename))
        .routes(routes!(api::duplicate))
        .routes(routes!(api::bin))
        .routes(routes!(api::restore))
        .routes(routes!(api::picture))
        .routes(routes!(api::versions, api::keep_version))
        .routes(routes!(api::version))
        .routes(routes!(sounds::take))
        .routes(routes!(sounds::give))
        .routes(routes!(sounds::export))
        .routes(routes!(sounds::import))
        .routes(routes!(api::schema))
        .routes(routes!(api::health))
        .split_for_parts();
    let set = |name: HeaderName, value: &'static str| {
        SetResponseHeaderLayer::if_not_present(name, HeaderValue::from_static(value))
    };
    routes
        .route(
            "/api/openapi.json",
            routing::get(move || async move { Json(described) }),
        )
        .fallback(assets::serve)
        .with_state(app)
        .layer(DefaultBodyLimit::max(MAX_BODY))
        .layer(CompressionLayer::new())
        .layer(set(
            header::CONTENT_SECURITY_POLICY,
            "default-src 'none'; frame-ancestors 'none'",
        ))
        .layer(set(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(set(header::REFERRER_POLICY, "no-referrer"))
        // cross-origin isolation: the page may share memory with the audio thread
        .layer(set(
            HeaderName::from_static("cross-origin-opener-policy"),
            "same-origin",
        ))
        .layer(set(
            HeaderName::from_static("cross-origin-embedder-policy"),
            "require-corp",
        ))
        .layer(set(
            HeaderName::from_static("cross-origin-resource-policy"),
            "same-origin",
        ))
        .layer(middleware::from_fn_with_state(port, gate::check))
}
