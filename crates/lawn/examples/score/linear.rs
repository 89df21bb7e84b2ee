//! A linear program, solved by the kept crate: for the score's bound, and for the check of what a scarce volume is shared by.

use clarabel::algebra::CscMatrix;
use clarabel::solver::{
    DefaultSettingsBuilder, DefaultSolver, IPSolver, NonnegativeConeT, SolverStatus, ZeroConeT,
};

/// A row of a program: its entries and its right side.
pub struct Row {
    pub entries: Vec<(usize, f64)>,
    pub right: f64,
}

/// Least cost with rows that are equal to their right side, then rows that are at most theirs.
pub fn solve(count: usize, cost: &[f64], equal: &[Row], most: &[Row]) -> Result<Vec<f64>, String> {
    let rows = equal.len() + most.len();
    let (mut i, mut j, mut v, mut b) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for (r, row) in equal.iter().chain(most).enumerate() {
        for &(column, value) in &row.entries {
            i.push(r);
            j.push(column);
            v.push(value);
        }
        b.push(row.right);
    }
    let a = CscMatrix::new_from_triplets(rows, count, i, j, v);
    let p = CscMatrix::<f64>::zeros((count, count));
    let cones = [ZeroConeT(equal.len()), NonnegativeConeT(most.len())];
    let settings = DefaultSettingsBuilder::default()
        .verbose(false)
        .max_iter(200)
        .build()
        .map_err(|e| e.to_string())?;
    let mut solver =
        DefaultSolver::new(&p, cost, &a, &b, &cones, settings).map_err(|e| format!("{e:?}"))?;
    solver.solve();
    match solver.solution.status {
        SolverStatus::Solved | SolverStatus::AlmostSolved => Ok(solver.solution.x.clone()),
        other => Err(format!("the linear program was not solved: {other:?}")),
    }
}
