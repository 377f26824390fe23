//! Plain loops compiled anew for processors with wide registers, which one is told as the program
//! runs.

/// Work whose loops are compiled for each kind of processor that is told apart. `call` is to be
/// inlined in any case (`#[inline(always)]`), and so is what it calls: what is not stays as it is for
/// every processor.
pub(super) use pulp::NullaryFnOnce as Wide;

/// Does some work with the widest registers that this processor has.
pub(super) fn wide<W: Wide>(work: W) -> W::Output {
    pulp::Arch::new().dispatch(work)
}
