//! Who may ask, by name and port.

use axum::body::Body;
use axum::http::{Request, StatusCode};
use rstest::rstest;
use tower::ServiceExt;
use zolvik_server::router::router;
use zolvik_server::state::App;
use zolvik_store::Store;

#[rstest]
#[case("127.0.0.1:7330", 7330, true)]
#[case("LocalHost:7330", 7330, true)]
#[case("[::1]:7330", 7330, true)]
#[case::the_usual_port_said("localhost:80", 80, true)]
#[case::the_usual_port_unsaid("localhost", 80, true)]
#[case::the_usual_port_left_empty("localhost:", 80, true)]
#[case::unsaid_is_not_ours("localhost", 7330, false)]
#[case::another_port("localhost:80", 7330, false)]
#[case::a_port_in_words("localhost:http", 80, false)]
#[case::a_port_beyond_all("localhost:65616", 80, false)]
#[case::another_name("evil.example:80", 80, false)]
#[case::hidden_behind_a_user("localhost@evil.example:80", 80, false)]
#[case::as_a_user("evil.example@localhost:80", 80, false)]
#[case::a_longer_name("localhost.evil.example", 80, false)]
#[case::nothing("", 80, false)]
#[tokio::test]
async fn a_host_and_an_origin_are_ours_by_name_and_port(
    #[case] authority: &str,
    #[case] port: u16,
    #[case] ours: bool,
) {
    let data = tempfile::tempdir().unwrap();
    let app = router(App::new(Store::open(data.path()).unwrap()), port);
    let wanted = if ours {
        StatusCode::NO_CONTENT
    } else {
        StatusCode::FORBIDDEN
    };
    let own = format!("localhost:{port}");
    let from = format!("http://{authority}");
    for headers in [
        vec![("host", authority)],
        vec![("host", own.as_str()), ("origin", &from)],
    ] {
        let mut request = Request::get("/api/health");
        for (name, value) in headers {
            request = request.header(name, value);
        }
        let answer = app
            .clone()
            .oneshot(request.body(Body::empty()).unwrap())
            .await
            .unwrap();
        assert_eq!(answer.status(), wanted, "{authority} at {port}");
    }
}
