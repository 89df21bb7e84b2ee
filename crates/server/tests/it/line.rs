//! A line between a client and a server that a test can freeze, cut, or rob of its answers.

use std::net::SocketAddr;
use std::sync::Arc;

use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::watch;

use crate::harness::App;

/// What the line does with connections.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Line {
    /// Bytes pass.
    Open,
    /// Connections stand, and nothing passes until it is open again.
    Frozen,
    /// Connections end, new ones too.
    Cut,
    /// Requests arrive, answers are lost. Connections from before end.
    AnswersLost,
}

/// A line to an address, open.
pub async fn proxy(to: SocketAddr) -> (SocketAddr, Arc<watch::Sender<Line>>) {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let (sender, line) = watch::channel(Line::Open);
    tokio::spawn(async move {
        while let Ok((client, _)) = listener.accept().await {
            let line = line.clone();
            tokio::spawn(async move {
                let begun = *line.borrow();
                if begun == Line::Cut {
                    return;
                }
                let Ok(server) = TcpStream::connect(to).await else {
                    return;
                };
                if begun == Line::AnswersLost {
                    lose_answers(client, server).await;
                    return;
                }
                let (from_client, to_client) = client.into_split();
                let (from_server, to_server) = server.into_split();
                tokio::select! {
                    () = pass(from_client, to_server, line.clone()) => {}
                    () = pass(from_server, to_client, line) => {}
                }
            });
        }
    });
    (address, Arc::new(sender))
}

/// Passes bytes on while the line is open; ends with either side, or when the line is cut.
async fn pass(
    mut from: impl AsyncReadExt + Unpin,
    mut to: impl AsyncWriteExt + Unpin,
    mut line: watch::Receiver<Line>,
) {
    let mut bytes = [0; 16 * 1024];
    loop {
        let read = tokio::select! {
            read = from.read(&mut bytes) => read.unwrap_or(0),
            _ = line.wait_for(|l| matches!(l, Line::Cut | Line::AnswersLost)) => return,
        };
        let open = line
            .wait_for(|l| *l != Line::Frozen)
            .await
            .is_ok_and(|l| *l == Line::Open);
        if read == 0 || !open || to.write_all(&bytes[..read]).await.is_err() {
            return;
        }
    }
}

async fn lose_answers(mut client: TcpStream, mut server: TcpStream) {
    let mut buffer = vec![0; 65_536];
    loop {
        let mut answer = [0; 1024];
        tokio::select! {
            n = client.read(&mut buffer) => match n {
                Ok(n) if n > 0 => server.write_all(&buffer[..n]).await.unwrap(),
                _ => return,
            },
            // The server has answered: nobody will know.
            _ = server.read(&mut answer) => return,
        }
    }
}

/// The application as it is reached through a line.
pub async fn behind_proxy(app: &App) -> (App, Arc<watch::Sender<Line>>) {
    let (address, line) = proxy(app.address).await;
    let through = App {
        address,
        pool: app.pool.clone(),
        database_url: app.database_url.clone(),
        _running: None,
    };
    (through, line)
}
