//! Child processes that never outlive us: each runs under a small shell that waits for our end of a pipe to close, which it does
//! however we end, and then stops the child.

use std::io;
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Child, Command, ExitStatus, Stdio};

/// How a child is told to stop.
#[derive(Debug, Clone, Copy)]
pub enum Stop {
    /// SIGTERM: in an orderly way.
    Term,
    /// SIGINT: what PostgreSQL calls fast.
    Interrupt,
    /// SIGKILL to all of its process group: browsers and their children.
    KillGroup,
}

/// A child that is stopped when this is dropped.
#[derive(Debug)]
pub struct Guarded {
    shell: Child,
}

/// Starts a program under guard; `delete_after` is removed once it has ended, however that came.
///
/// # Errors
/// No shell.
pub fn spawn(
    command: &Command,
    stop: Stop,
    delete_after: Option<&Path>,
    stdout: Stdio,
    stderr: Stdio,
) -> io::Result<Guarded> {
    let script = match stop {
        Stop::Term => {
            r#""$@" </dev/null & child=$!; (wait_for() { cat >/dev/null; kill -TERM $child 2>/dev/null; }; wait_for) <&3 3<&- & wait $child"#
        }
        Stop::Interrupt => {
            r#""$@" </dev/null & child=$!; (wait_for() { cat >/dev/null; kill -INT $child 2>/dev/null; }; wait_for) <&3 3<&- & wait $child"#
        }
        Stop::KillGroup => {
            r#""$@" </dev/null 3<&- & child=$!; (cat >/dev/null; kill -KILL 0) <&3 3<&- & wait $child"#
        }
    };
    // A background job of a shell without job control reads /dev/null: the pipe is handed on as descriptor 3.
    let mut shell = Command::new("sh");
    shell
        .arg("-c")
        .arg(format!(
            r#"exec 3<&0; {script}; [ -z "$GUARD_DELETE" ] || rm -rf -- "$GUARD_DELETE""#
        ))
        .env("GUARD_DELETE", delete_after.unwrap_or(Path::new("")))
        .arg("sh")
        .arg(command.get_program())
        .args(command.get_args())
        .stdin(Stdio::piped())
        .stdout(stdout)
        .stderr(stderr)
        // Ctrl-C at the terminal reaches us alone; we stop the children in order.
        .process_group(0);
    for (name, value) in command.get_envs() {
        match value {
            Some(value) => shell.env(name, value),
            None => shell.env_remove(name),
        };
    }
    if let Some(dir) = command.get_current_dir() {
        shell.current_dir(dir);
    }
    Ok(Guarded {
        shell: shell.spawn()?,
    })
}

impl Guarded {
    /// Standard output of the child, if it was piped; once.
    pub fn take_stdout(&mut self) -> Option<std::process::ChildStdout> {
        self.shell.stdout.take()
    }

    /// Whether the child has ended.
    ///
    /// # Errors
    /// As the system says.
    pub fn try_wait(&mut self) -> io::Result<Option<ExitStatus>> {
        self.shell.try_wait()
    }

    /// Stops the child and waits for it.
    pub fn stop(&mut self) {
        drop(self.shell.stdin.take());
        // The status of a stopped child says nothing new.
        let _ = self.shell.wait();
    }
}

impl Drop for Guarded {
    fn drop(&mut self) {
        self.stop();
    }
}
