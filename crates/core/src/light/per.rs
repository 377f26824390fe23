//! Values that are known by a meaning, not by a number: one for each quantity, one for each part of
//! the sky.

/// Makes a list that is indexed by the variants of an enum, in the order of their declaration.
macro_rules! per {
    ($(#[$doc:meta])* $name:ident, $key:ty, $count:literal) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, Default, PartialEq)]
        pub struct $name<T>(pub [T; $count]);

        impl<T> $name<T> {
            /// The values in order.
            pub fn iter(&self) -> std::slice::Iter<'_, T> {
                self.0.iter()
            }

            /// The values in order, to be changed.
            pub fn iter_mut(&mut self) -> std::slice::IterMut<'_, T> {
                self.0.iter_mut()
            }

            /// Another value for each.
            pub fn map<U>(self, f: impl FnMut(T) -> U) -> $name<U> {
                $name(self.0.map(f))
            }
        }

        impl<T> IntoIterator for $name<T> {
            type Item = T;
            type IntoIter = std::array::IntoIter<T, $count>;

            fn into_iter(self) -> Self::IntoIter {
                self.0.into_iter()
            }
        }

        impl<T> std::ops::Index<$key> for $name<T> {
            type Output = T;

            fn index(&self, key: $key) -> &T {
                &self.0[key as usize]
            }
        }

        impl<T> std::ops::IndexMut<$key> for $name<T> {
            fn index_mut(&mut self, key: $key) -> &mut T {
                &mut self.0[key as usize]
            }
        }
    };
}
pub(crate) use per;
