//! Lines above the heading of a file: a title, the station's name, the day of the export. They are read over.

use std::borrow::Cow;

use crate::text::in_lines;

/// Most lines above a heading.
const MOST_LINES: usize = 10;
/// Lines by whose cells it is judged what a row has.
const LOOKED_AT: usize = 40;

/// A file's text, [`in_lines`], with the lines above its heading left empty, so that the others keep their numbers. The heading is the first line with as many cells as most
/// lines have; a file of which it holds no words keeps all its lines.
#[must_use]
pub fn read_over(file: &str) -> Cow<'_, str> {
    let text = in_lines(file);
    let Some(above) = above(&text).filter(|above| *above > 0) else {
        return text;
    };
    let from: usize = text.split_inclusive('\n').take(above).map(str::len).sum();
    let rest = text.get(from..).unwrap_or_default();
    Cow::Owned(format!("{}{rest}", "\n".repeat(above)))
}

/// How many lines stand above the heading; `None`: no line is one.
fn above(text: &str) -> Option<usize> {
    let lines: Vec<&str> = text.lines().take(LOOKED_AT).collect();
    [',', ';', '\t'].into_iter().find_map(|mark| {
        let cells = |line: &str| line.matches(mark).count();
        let counts = || lines.iter().map(|line| cells(line));
        let usual = counts().max_by_key(|n| (counts().filter(|of| of == n).count(), *n))?;
        let heading = lines
            .iter()
            .position(|line| usual > 0 && cells(line) == usual)?;
        let is_words = lines[heading]
            .split(mark)
            .all(|cell| !cell.trim().starts_with(|c: char| c.is_ascii_digit()));
        (is_words && heading <= MOST_LINES).then_some(heading)
    })
}

#[cfg(test)]
mod tests {
    use super::read_over;

    #[test]
    fn titles_are_read_over_and_lines_keep_their_numbers() {
        let rows = "date,tmin_c,tmax_c\n2026-06-01,12,24\n2026-06-02,13,25\n";
        assert_eq!(read_over(rows), rows);
        let titled = format!("Juniper Meadow, daily values\n\n{rows}");
        assert_eq!(read_over(&titled), format!("\n\n{rows}"));
        // A heading that does not fit its rows is none of ours to leave out.
        let uneven = "date,tmin_c\n2026-06-01,12,24\n2026-06-02,13,25\n";
        assert_eq!(read_over(uneven), uneven);
        let semicolons = "Station 4\ndate;rain, mm;wind\n1.6.2026;0,4;2\n2.6.2026;0,0;1\n";
        assert!(read_over(semicolons).starts_with("\ndate;rain"));
        assert_eq!(read_over(""), "");
    }
}
