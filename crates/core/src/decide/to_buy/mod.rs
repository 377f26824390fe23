//! Which filter next: for a rig, the places it stands at and the kinds of target that are shot
//! with it, what one filter more would save in a year, and the smallest set that serves all of it.
//!
//! A kind of target has needs: a line at its goal; for starlight a luminance at the goal and, on a
//! mono camera, red, green and blue at a coarser one. One filter may serve several lines at once
//! (a dual band on a colour camera), so that the clock of a picture is the least sum over ways of
//! sharing the needs out between filters, each as long as its slowest need.

pub(crate) mod needs;
pub(crate) mod next;
pub(crate) mod question;
pub(crate) mod set;
