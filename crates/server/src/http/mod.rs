//! What every request and every answer goes through, whatever it is about: who asks, how much and how fast, what an error looks like.

pub mod asker;
pub mod body;
pub mod csv;
pub mod door;
pub mod entrance;
pub mod error;
pub mod etag;
pub mod headers;
pub mod limits;
pub mod peer;
pub mod picture;
pub mod query;
pub mod request_id;
