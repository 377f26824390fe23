//! `salt-lamp evaluate FILE.json`.

use std::io::Read;
use std::path::Path;
use std::process::ExitCode;

use crate::say::say;
use salt_lamp_core::light::Tables;
use salt_lamp_formats::{ReadError, read_scenario};

/// Exit code for a document that is not accepted.
const NOT_ACCEPTED: u8 = 2;

/// Evaluates a file (or standard input for "-") and prints the answer.
pub fn run(file: &Path) -> ExitCode {
    let bytes = if file.as_os_str() == "-" {
        let mut bytes = Vec::new();
        std::io::stdin().read_to_end(&mut bytes).map(|_| bytes)
    } else {
        std::fs::read(file)
    };
    let bytes = match bytes {
        Ok(bytes) => bytes,
        Err(e) => return fail(&format!("{}: {e}", file.display())),
    };
    let scenario = match read_scenario(&bytes) {
        Ok(scenario) => scenario,
        Err(e @ ReadError::Syntax { .. }) => return fail(&format!("{}: {e}", file.display())),
        Err(e) => {
            for field in e.fields() {
                eprintln!("{}: {}: {}", file.display(), field.path, field.message);
            }
            return ExitCode::from(NOT_ACCEPTED);
        }
    };
    match Tables::shipped() {
        Ok(tables) => {
            let answer = salt_lamp_core::evaluate(&scenario, &tables);
            match serde_json::to_string_pretty(&answer) {
                Ok(text) => say(&text),
                Err(e) => return fail(&e.to_string()),
            }
            ExitCode::SUCCESS
        }
        Err(e) => fail(&e.to_string()),
    }
}

fn fail(message: &str) -> ExitCode {
    eprintln!("{message}");
    ExitCode::from(NOT_ACCEPTED)
}
