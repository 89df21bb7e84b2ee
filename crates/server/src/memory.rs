//! Memory that is free goes back to the system.

use std::env;
use std::os::unix::process::CommandExt;
use std::process::Command;

/// What the C library's allocator is told, by name, bytes.
///
/// Left alone it learns from the first large block that is freed to keep blocks of up to 32 MB, and up to twice as much free memory, in each of its arenas. Photos are
/// drawn on several threads, each with an arena, so what is kept adds up: 180 MB of it were seen (mallopt(3), from memory, and decision 46).
const ALLOCATOR: [(&str, &str); 2] = [
    // From this size on a block is mapped by itself, and unmapped once it is free.
    ("MALLOC_MMAP_THRESHOLD_", "1048576"),
    // Free memory that an arena keeps at its end.
    ("MALLOC_TRIM_THRESHOLD_", "4194304"),
];

/// Starts this process anew, as the same process with the same arguments, unless the allocator was told already: it listens to the environment alone, once, at its
/// start. Goes on as it is where that does not work; another allocator does not mind.
pub fn give_back_what_is_free() {
    if ALLOCATOR
        .iter()
        .any(|(name, _)| env::var_os(name).is_some())
    {
        return;
    }
    let mut arguments = env::args_os();
    let (Some(name), Ok(program)) = (arguments.next(), env::current_exe()) else {
        return;
    };
    let error = Command::new(program)
        .arg0(name)
        .args(arguments)
        .envs(ALLOCATOR)
        .exec();
    tracing::warn!(%error, "more memory than needed may be kept");
}
