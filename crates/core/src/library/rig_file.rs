//! A rig as a file of its own, with all its parts in it, so that it can be handed on or read back
//! where the shelf knows none of them.

use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

use crate::library::kit::RigParts;
use crate::library::rig::Rig;
use crate::library::shelf::{ShelfEntry, ShelfThing};
use crate::scenario::check::Checker;
use crate::scenario::field_error::FieldError;

/// The name of the document format. There is one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum RigFormatName {
    /// The only value.
    #[default]
    #[serde(rename = "salt-lamp-rig")]
    Rig,
}

/// A rig with its parts.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RigFile {
    /// Always `salt-lamp-rig`.
    pub format: RigFormatName,
    /// Always 1.
    #[schema(minimum = 1, maximum = 1)]
    pub version: u32,
    /// What its owner calls it.
    pub name: String,
    /// The rig; its ids are keys of `parts`.
    pub rig: Rig,
    /// Telescope, camera and filters by the ids that the rig names.
    pub parts: BTreeMap<String, ShelfEntry>,
}

impl RigFile {
    /// A rig with the parts that its ids name, as a file.
    ///
    /// # Errors
    /// Every id that names nothing.
    pub fn new<'a>(
        name: &str,
        rig: &Rig,
        find: &dyn Fn(&str) -> Option<&'a ShelfEntry>,
    ) -> Result<Self, Vec<FieldError>> {
        let parts = rig.part_ids().filter_map(|id| Some((id.clone(), find(id)?.clone())));
        let file = Self {
            format: RigFormatName::Rig,
            version: 1,
            name: name.to_owned(),
            rig: rig.clone(),
            parts: parts.collect(),
        };
        file.parts().map(drop)?;
        Ok(file)
    }

    /// The rig with its parts.
    ///
    /// # Errors
    /// Every id that names no part of the kind that belongs there.
    pub fn parts(&self) -> Result<RigParts<'_>, Vec<FieldError>> {
        self.rig.parts(&self.name, &|id| self.parts.get(id)).map_err(|errors| {
            let own = |e: FieldError| FieldError {
                path: e.path.replacen("thing.item", "rig", 1),
                message: e.message.replacen("of the shelf; choose one", "among its parts", 1),
            };
            errors.into_iter().map(own).collect()
        })
    }

    /// Checks every field, of its parts too.
    ///
    /// # Errors
    /// All fields that are wrong.
    pub fn check(self) -> Result<Self, Vec<FieldError>> {
        let mut errors = Checker::errors_of(|c| self.checked_by(c)).err().unwrap_or_default();
        errors.extend(self.parts().err().into_iter().flatten());
        if errors.is_empty() { Ok(self) } else { Err(errors) }
    }

    fn checked_by(&self, c: &mut Checker) {
        if self.version != 1 {
            let message = format!("{} is not accepted; 1 is the only version", self.version);
            c.wrong("version", message);
        }
        c.name("name", &self.name);
        c.kit_rig("rig", &self.rig);
        let used: BTreeSet<&String> = self.rig.part_ids().collect();
        for (id, part) in &self.parts {
            if !used.contains(id) {
                c.wrong(format!("parts.{id}"), "no part of this rig; leave it out");
            } else if matches!(part.thing, ShelfThing::Rig(_) | ShelfThing::Site(_)) {
                c.wrong(format!("parts.{id}.thing.kind"), "give a telescope, a camera or a filter");
            }
            for e in part.clone().check().err().into_iter().flatten() {
                c.wrong(format!("parts.{id}.{}", e.path), e.message);
            }
        }
    }
}
