//! The application as one router.

use axum::http::{HeaderName, HeaderValue, Method, StatusCode, Uri, header};
use axum::{Json, Router, middleware, routing};
use tower_http::set_header::SetResponseHeaderLayer;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use zolvik_json::outside::visible;

use crate::api::{backups, files, kept, library, patches, renders, versions};
use crate::problem::Problem;
use crate::state::App;
use crate::{assets, gate};

#[derive(OpenApi)]
#[openapi(info(
    title = "Zolvik",
    description = "Patches of frequency- and phase-modulation sounds"
))]
struct Described;

/// The application, answering requests addressed to this port.
pub fn router(app: App, port: u16) -> Router {
    let served = gate::Served {
        port,
        app: app.clone(),
    };
    let (routes, described) = OpenApiRouter::with_openapi(Described::openapi())
        .routes(routes!(patches::list, patches::create))
        .routes(routes!(patches::read, patches::save, patches::rename))
        .routes(routes!(patches::steps))
        .routes(routes!(patches::keep_beside, patches::drop_beside))
        .routes(routes!(patches::tag))
        .routes(routes!(patches::duplicate))
        .routes(routes!(patches::bin))
        .routes(routes!(patches::restore))
        .routes(routes!(patches::raw))
        .routes(routes!(patches::picture))
        .routes(routes!(versions::list, versions::keep))
        .routes(routes!(versions::read, versions::rename, versions::delete))
        .routes(routes!(files::take))
        .routes(routes!(files::give))
        .routes(routes!(files::export))
        .routes(routes!(files::import))
        .routes(routes!(kept::list))
        .routes(routes!(kept::keep, kept::forget))
        .routes(routes!(renders::list, renders::begin))
        .routes(routes!(backups::list, backups::make))
        .routes(routes!(backups::contents))
        .routes(routes!(backups::put_in_place))
        .routes(routes!(backups::take_out))
        .routes(routes!(renders::stop))
        .routes(routes!(renders::resume))
        .routes(routes!(renders::events))
        .routes(routes!(renders::file))
        .routes(routes!(renders::forget))
        .routes(routes!(library::about))
        .routes(routes!(library::empty_bin))
        .routes(routes!(library::delete))
        .routes(routes!(library::schema))
        .routes(routes!(library::health))
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
        .method_not_allowed_fallback(wrong_method)
        .with_state(app)
        .layer(middleware::from_fn_with_state(served, gate::check))
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
}

async fn wrong_method(method: Method, uri: Uri) -> Problem {
    let (method, path) = (visible(method.as_str(), 20), visible(uri.path(), 100));
    let detail = format!("{path} cannot be asked with {method}");
    Problem::new(StatusCode::METHOD_NOT_ALLOWED, "wrong method", detail)
}
