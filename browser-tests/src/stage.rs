//! Browser and server together, for one story or for several in turn.

use std::cell::RefCell;
use std::ops::{Deref, DerefMut};
use std::path::Path;
use std::time::Duration;

use crate::props::Props;

/// How long a state is waited for before a story fails. Long, as a machine may be several times slower than this one: only a story that
/// fails waits so long.
pub const PATIENCE: Duration = Duration::from_secs(120);

/// Whether nothing is open in the page and nothing set otherwise than in a new one.
const IS_AS_NEW: &str = r#"
    const set = { 'zolvik-theme': 'system', 'zolvik-axis': 'wide', 'zolvik-picture': 'note', 'zolvik-touch': 'even', 'zolvik-grid-beats': '0.25',
        'zolvik-result-px': '0', 'zolvik-keys-open': 'true', 'zolvik-keys-open-low': 'false', 'zolvik-inspector-px': '0', 'zolvik-beside': 'spectrum',
        'zolvik-span': '{"from_hz":20,"to_hz":20000}', 'zolvik-shown': 'voice', 'zolvik-shown-finish': 'finished', 'zolvik-matched': 'true',
        'zolvik-cycles-s': '0.02', 'zolvik-algorithms': '[]' };
    return Object.entries(set).every(([key, value]) => (localStorage.getItem(key) ?? value) === value)
        && document.querySelector('[role=dialog], .p-toast-message, .p-menu, .p-contextmenu') === null"#;

/// Everything a story needs.
pub struct Stage {
    props: Option<Props>,
    demo: bool,
    /// Whether the page is that of the story before, at its library: then the first address is gone to within it.
    is_there: std::cell::Cell<bool>,
}

/// A stage that is handed from story to story.
struct Handed {
    props: Props,
    demo: bool,
}

thread_local! {
    /// Whether stories run in turn here, and what the last of them left.
    static IN_TURN: RefCell<Option<Option<Handed>>> = const { RefCell::new(None) };
}

/// As long as this is there, stories of this thread hand their stage on.
pub struct InTurn(());

impl InTurn {
    /// From now on.
    #[allow(clippy::new_without_default)]
    pub fn new() -> Self {
        IN_TURN.with_borrow_mut(|slot| *slot = Some(None));
        InTurn(())
    }
}

impl Drop for InTurn {
    fn drop(&mut self) {
        let left = IN_TURN.with_borrow_mut(Option::take);
        drop(left);
    }
}

/// A test of several stories that need nothing but a patch of their own: in turn on one stage, as opening the application takes as long as half of a
/// story.
#[macro_export]
macro_rules! in_turn {
    ($name:ident: $($story:ident),+ $(,)?) => {
        #[tokio::test]
        async fn $name() {
            let _turns = $crate::InTurn::new();
            $(
                println!("story: {}", stringify!($story));
                $story().await;
            )+
        }
    };
}

/// A stage on an empty data folder.
pub async fn stage() -> Stage {
    stage_with(false).await
}

/// A stage, with the demo collection if wished.
pub async fn stage_with(demo: bool) -> Stage {
    let handed = IN_TURN.with_borrow_mut(|slot| slot.as_mut().and_then(Option::take));
    match handed.filter(|handed| handed.demo == demo) {
        Some(Handed { props, .. }) => {
            let stage = Stage::of(props, demo);
            stage.begin_again().await;
            stage
        }
        None => stage_before(demo, &[]).await,
    }
}

/// A stage whose server has variables in its surroundings.
pub async fn stage_before(demo: bool, variables: &[(&str, &Path)]) -> Stage {
    let stage = Stage::of(Props::new(demo, variables).await, demo);
    stage.fit_window().await;
    stage
}

impl Deref for Stage {
    type Target = Props;

    fn deref(&self) -> &Props {
        self.props
            .as_ref()
            .expect("a stage has all it needs until it ends")
    }
}

impl DerefMut for Stage {
    fn deref_mut(&mut self) -> &mut Props {
        self.props
            .as_mut()
            .expect("a stage has all it needs until it ends")
    }
}

impl Stage {
    fn of(props: Props, demo: bool) -> Self {
        Stage {
            props: Some(props),
            demo,
            is_there: false.into(),
        }
    }

    /// Brings the page of the story before to its library; one that is not as it began is opened anew.
    async fn begin_again(&self) {
        self.clear();
        self.fit_window().await;
        self.go("/").await;
        self.find(".list, .empty").await;
        let is_as_new = self.js(IS_AS_NEW, vec![]).await == true;
        if !is_as_new {
            self.js("localStorage.clear()", vec![]).await;
        }
        self.is_there.set(is_as_new);
    }

    /// Goes to an address within the page.
    async fn go(&self, path: &str) {
        let go = "document.querySelector('#app').__vue_app__.config.globalProperties.$router.push(arguments[0])";
        self.js(go, vec![path.into()]).await;
    }

    /// Goes to a path within the page that is open, by its library, so that nothing of where it was is taken for what comes.
    pub async fn visit(&self, path: &str) {
        self.go("/").await;
        self.find(".list").await;
        self.go(path).await;
    }

    /// Opens a path of the application.
    pub async fn open(&self, path: &str) {
        if self.is_there.take() {
            return self.go(path).await;
        }
        self.driver
            .goto(format!("{}{path}", self.server.address))
            .await
            .expect("the page opens");
    }

    /// Kills the server at once and starts it again on the same data folder and port.
    pub fn restart_server(&mut self) {
        let Props { server, data, .. } = &mut **self;
        server.restart(data.path());
    }

    /// Lets the console speak of what a story brings about on purpose, such as `status of 409`.
    pub fn expect_in_console(&self, part: &'static str) {
        if let Ok(mut expected) = self.expected.lock() {
            expected.push(part);
        }
    }

    /// A server that is killed makes the browser tell of requests that failed.
    pub fn expect_failed_requests(&self) {
        for part in ["net::ERR", "status of 5", "status of 4", "Failed to load"] {
            self.expect_in_console(part);
        }
    }
}

impl Drop for Stage {
    fn drop(&mut self) {
        let Some(props) = self.props.take() else {
            return;
        };
        let errors = props.errors();
        if std::thread::panicking() {
            eprintln!("the page's console: {errors:#?}");
            return;
        }
        let handed = Handed {
            props,
            demo: self.demo,
        };
        let left = IN_TURN.with_borrow_mut(|slot| match slot {
            Some(next) => next.replace(handed),
            None => Some(handed),
        });
        drop(left);
        assert!(
            errors.is_empty(),
            "the page's console has errors: {errors:#?}"
        );
    }
}
