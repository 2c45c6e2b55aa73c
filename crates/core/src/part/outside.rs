//! A part of another crate: a plan that this one knows by its traits alone.

use std::any::Any;
use std::fmt::Debug;
use std::sync::Arc;

use super::Display;

/// Such a plan.
#[derive(Debug, Clone)]
pub struct Outside(Arc<dyn OutsidePlan>);

impl Outside {
    /// Takes the plan of a part.
    pub fn new(plan: impl Display + Debug + PartialEq + Send + Sync + 'static) -> Self {
        Self(Arc::new(plan))
    }

    /// The plan, as what it can be asked.
    #[must_use]
    pub fn display(&self) -> &dyn Display {
        self.0.display()
    }
}

/// Two rigs are compared with their plans.
impl PartialEq for Outside {
    fn eq(&self, other: &Self) -> bool {
        self.0.equals(other.0.any())
    }
}

/// The abilities of every plan, without its type.
trait OutsidePlan: Debug + Send + Sync {
    fn display(&self) -> &dyn Display;
    fn any(&self) -> &dyn Any;
    fn equals(&self, other: &dyn Any) -> bool;
}

impl<P: Display + Debug + PartialEq + Send + Sync + 'static> OutsidePlan for P {
    fn display(&self) -> &dyn Display {
        self
    }

    fn any(&self) -> &dyn Any {
        self
    }

    fn equals(&self, other: &dyn Any) -> bool {
        other.downcast_ref::<P>() == Some(self)
    }
}
