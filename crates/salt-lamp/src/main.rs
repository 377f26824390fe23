//! The program: serves the application, or answers a scenario on standard output.

mod demo;
mod evaluate;
mod serve;

use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand};

/// Which filter, which gain, how long a sub, how much time: for deep-sky imagers.
#[derive(Parser)]
#[command(version)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve the application to a browser on this machine.
    Serve(serve::Serve),
    /// Evaluate a scenario document and print the answer as JSON; exit 2 if the document is not accepted.
    Evaluate {
        /// The scenario (JSON); "-" reads standard input.
        file: PathBuf,
    },
    /// Print the OpenAPI 3.1 description of the API.
    Openapi,
    /// Print the JSON Schema of the scenario document.
    Schema,
    /// Print the JSON Schema of the plan document.
    PlanSchema,
}

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(tracing_subscriber::EnvFilter::try_from_env("SALT_LAMP_LOG").unwrap_or_else(|_| "warn".into()))
        .with_writer(std::io::stderr)
        .init();
    let outcome = match Cli::parse().command {
        Command::Serve(serve) => serve.run(),
        Command::Evaluate { file } => return evaluate::run(&file),
        Command::Openapi => print_json(&salt_lamp_server::openapi()),
        Command::PlanSchema => print_json(&salt_lamp_formats::plan::plan_json_schema()),
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

fn print_json(value: &impl serde::Serialize) -> Result<(), Box<dyn std::error::Error>> {
    println!("{}", serde_json::to_string_pretty(value)?);
    Ok(())
}
