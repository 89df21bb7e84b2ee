//! A client that costs little: one connection, HTTP/1.1 with lengths, as our server answers.

use std::time::Duration;

use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

use crate::Failure;

pub(crate) struct Connection {
    stream: TcpStream,
    address: String,
    buffer: Vec<u8>,
}

pub(crate) struct Answer {
    pub(crate) status: u16,
    head: String,
    pub(crate) body: Vec<u8>,
}

impl Answer {
    pub(crate) fn header(&self, name: &str) -> Option<&str> {
        self.head.lines().find_map(|line| {
            let (key, value) = line.split_once(':')?;
            key.eq_ignore_ascii_case(name).then(|| value.trim())
        })
    }

    pub(crate) fn json(&self) -> Result<serde_json::Value, Failure> {
        Ok(serde_json::from_slice(&self.body)?)
    }
}

impl Connection {
    pub(crate) async fn to(address: &str) -> Result<Self, Failure> {
        let stream = TcpStream::connect(address).await?;
        stream.set_nodelay(true)?;
        Ok(Self {
            stream,
            address: address.to_owned(),
            buffer: Vec::new(),
        })
    }

    pub(crate) async fn get(&mut self, path: &str, headers: &str) -> Result<Answer, Failure> {
        self.send("GET", path, headers, "").await
    }

    /// Sends a request and waits for its answer, thirty seconds at most. Headers are lines that end with a line break.
    pub(crate) async fn send(
        &mut self,
        method: &str,
        path: &str,
        headers: &str,
        body: &str,
    ) -> Result<Answer, Failure> {
        let address = &self.address;
        let request = format!(
            "{method} {path} HTTP/1.1\r\nHost: {address}\r\nOrigin: http://{address}\r\nContent-Length: {}\r\n{headers}\r\n{body}",
            body.len()
        );
        let answered = async {
            self.stream.write_all(request.as_bytes()).await?;
            self.answer().await
        };
        tokio::time::timeout(Duration::from_secs(30), answered)
            .await
            .map_err(|_| "no answer within thirty seconds")?
    }

    /// Sends a head and bytes as they are; the status of the answer.
    pub(crate) async fn put(&mut self, head: &str, body: &[u8]) -> Result<u16, Failure> {
        let answered = async {
            self.stream.write_all(head.as_bytes()).await?;
            // A server that has answered already reads no more.
            let _ = self.stream.write_all(body).await;
            Ok::<_, Failure>(self.answer().await?.status)
        };
        tokio::time::timeout(Duration::from_secs(120), answered)
            .await
            .map_err(|_| "no answer within two minutes")?
    }

    async fn answer(&mut self) -> Result<Answer, Failure> {
        let mut chunk = [0; 16 * 1024];
        let head_end = loop {
            if let Some(at) = self.buffer.windows(4).position(|w| w == b"\r\n\r\n") {
                break at;
            }
            let read = self.stream.read(&mut chunk).await?;
            if read == 0 {
                return Err("the connection ended".into());
            }
            self.buffer.extend_from_slice(&chunk[..read]);
        };
        let head = String::from_utf8(self.buffer[..head_end].to_vec())?;
        let status: u16 = head.split(' ').nth(1).ok_or("no status")?.parse()?;
        let mut answer = Answer {
            status,
            head,
            body: Vec::new(),
        };
        let length: usize = match (status, answer.header("content-length")) {
            (204 | 304, _) | (_, None) => 0,
            (_, Some(length)) => length.parse()?,
        };
        if answer.header("transfer-encoding").is_some() {
            self.buffer.drain(..head_end + 4);
            answer.body = self.chunked().await?;
            return Ok(answer);
        }
        let whole = head_end + 4 + length;
        while self.buffer.len() < whole {
            let read = self.stream.read(&mut chunk).await?;
            if read == 0 {
                return Err("the connection ended".into());
            }
            self.buffer.extend_from_slice(&chunk[..read]);
        }
        answer.body = self.buffer[head_end + 4..whole].to_vec();
        self.buffer.drain(..whole);
        Ok(answer)
    }

    async fn chunked(&mut self) -> Result<Vec<u8>, Failure> {
        let mut body = Vec::new();
        loop {
            let line_end = self.until(b"\r\n").await?;
            let size = usize::from_str_radix(std::str::from_utf8(&self.buffer[..line_end])?, 16)?;
            self.buffer.drain(..line_end + 2);
            while self.buffer.len() < size + 2 {
                self.more().await?;
            }
            body.extend_from_slice(&self.buffer[..size]);
            self.buffer.drain(..size + 2);
            if size == 0 {
                return Ok(body);
            }
        }
    }

    async fn until(&mut self, end: &[u8]) -> Result<usize, Failure> {
        loop {
            if let Some(at) = self.buffer.windows(end.len()).position(|w| w == end) {
                return Ok(at);
            }
            self.more().await?;
        }
    }

    async fn more(&mut self) -> Result<(), Failure> {
        let mut chunk = [0; 4096];
        let read = self.stream.read(&mut chunk).await?;
        if read == 0 {
            return Err("the connection ended".into());
        }
        self.buffer.extend_from_slice(&chunk[..read]);
        Ok(())
    }
}

/// Signs in; the header line of the session's cookie.
pub(crate) async fn sign_in(address: &str, email: &str, password: &str) -> Result<String, Failure> {
    let body = serde_json::json!({ "email": email, "password": password }).to_string();
    let mut connection = Connection::to(address).await?;
    let answer = connection
        .send("POST", "/api/v1/session", JSON, &body)
        .await?;
    if answer.status != 200 {
        return Err(format!("sign-in answered {}", answer.status).into());
    }
    let cookie = answer.header("set-cookie").ok_or("no cookie")?;
    let cookie = cookie.split(';').next().unwrap_or_default();
    Ok(format!("Cookie: {cookie}\r\n"))
}

pub(crate) const JSON: &str = "Content-Type: application/json\r\n";
