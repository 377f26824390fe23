//! The program: serves the application, or answers a scenario on standard output.

mod demo;
mod evaluate;
mod folder;
mod measure;
mod played;
mod say;
mod serve;
mod standin;
mod tls;

use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand};
use tracing_subscriber::EnvFilter;

const AFTER_HELP: &str =
    "Each option of `serve` is also read from the environment: SALT_LAMP_DATA, SALT_LAMP_PORT and \
        so on; see `serve --help`.
SALT_LAMP_LOG says what is written to standard error: error, warn (the default), info, debug or \
        trace, for all or for parts
(\"warn,salt_lamp_server=debug,tower_http=debug\" tells each request).";

/// Which filter, which gain, how long a sub, how much time: for deep-sky imagers.
#[derive(Parser)]
#[command(version, after_help = AFTER_HELP)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve the application to a browser on this machine.
    Serve(serve::Serve),
    /// Set the passphrase that lets other machines in, or take it away.
    Passphrase(folder::Passphrase),
    /// Check the whole database; exit 1 where something is damaged.
    Check(folder::Check),
    /// Write a whole copy of the database.
    Backup(folder::Backup),
    /// Evaluate a scenario document and print the answer as JSON; exit 2 if the document is not
    /// accepted.
    Evaluate {
        /// The scenario (JSON); "-" reads standard input.
        file: PathBuf,
    },
    /// Measure frames: level, noise, slope, stars; or judge them as test frames of a light path.
    Measure(measure::Measure),
    /// Devices that do not exist, to try the product with.
    Standin(standin::Standin),
    /// Print the OpenAPI 3.1 description of the API.
    Openapi,
    /// Print the JSON Schema of the scenario document.
    Schema,
    /// Print the JSON Schema of the plan document.
    PlanSchema,
    /// Print the JSON Schema of a night's sequence table.
    SequenceSchema,
    /// Print the JSON Schema of a rig's file.
    RigSchema,
}

fn main() -> ExitCode {
    let command = Cli::parse().command;
    let filter = match log_filter(std::env::var("SALT_LAMP_LOG").ok().as_deref()) {
        Ok(filter) => filter,
        Err(e) => {
            eprintln!("salt-lamp: {e}");
            return ExitCode::FAILURE;
        }
    };
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr).init();
    let outcome = match command {
        Command::Serve(serve) => serve.run(),
        Command::Passphrase(passphrase) => passphrase.run(),
        Command::Check(check) => check.run(),
        Command::Backup(backup) => backup.run(),
        Command::Evaluate { file } => return evaluate::run(&file),
        Command::Measure(measure) => return measure.run(),
        Command::Standin(standin) => standin.run(),
        Command::Openapi => print_json(&salt_lamp_server::openapi()),
        Command::PlanSchema => print_json(&salt_lamp_formats::plan::plan_json_schema()),
        Command::SequenceSchema => print_json(&salt_lamp_formats::sequence::sequence_json_schema()),
        Command::RigSchema => print_json(&salt_lamp_formats::scenario::rig_json_schema()),
        Command::Schema => print_json(&salt_lamp_formats::scenario::scenario_json_schema()),
    };
    match outcome {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("salt-lamp: {e}");
            ExitCode::FAILURE
        }
    }
}

/// What is logged, as `SALT_LAMP_LOG` says it; warnings where it says nothing.
fn log_filter(said: Option<&str>) -> Result<EnvFilter, String> {
    let said = said.filter(|s| !s.trim().is_empty()).unwrap_or("warn");
    EnvFilter::try_new(said).map_err(|e| {
        format!(
            "SALT_LAMP_LOG is \"{said}\": {e}; give error, warn, info, debug or \
            trace, or part=level, with commas"
        )
    })
}

fn print_json(value: &impl serde::Serialize) -> Result<(), Box<dyn std::error::Error>> {
    say::say(&serde_json::to_string_pretty(value)?);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_logged_is_said_or_warnings() {
        assert_eq!(log_filter(None).unwrap().to_string(), "warn");
        assert_eq!(log_filter(Some(" ")).unwrap().to_string(), "warn");
        assert_eq!(
            log_filter(Some("warn,tower_http=debug")).unwrap().to_string(),
            "tower_http=debug,warn"
        );
        assert!(
            log_filter(Some("tower_http=loud"))
                .unwrap_err()
                .contains("SALT_LAMP_LOG is \"tower_http=loud\"")
        );
    }

    #[test]
    fn every_option_of_serve_has_its_variable() {
        use clap::CommandFactory;
        let cli = Cli::command();
        let serve = cli.find_subcommand("serve").unwrap();
        for option in serve.get_arguments().filter(|a| a.get_id() != "help") {
            let name = option.get_long().unwrap().to_uppercase().replace('-', "_");
            let variable = option
                .get_env()
                .and_then(|v| v.to_str())
                .unwrap_or_else(|| panic!("{name} has a variable"));
            assert_eq!(variable, format!("SALT_LAMP_{name}"));
        }
    }
}
