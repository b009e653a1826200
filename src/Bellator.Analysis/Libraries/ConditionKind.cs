namespace Bellator.Analysis.Libraries;

/// <summary>Which condition a call states.</summary>
public enum ConditionKind
{
    /// <summary>One of the first two arguments is a column, and is to be equal to the other.</summary>
    Equal,

    /// <summary>The first argument is a column, which is held against something in another way.</summary>
    Test,

    /// <summary>All of the conditions given must hold.</summary>
    All,

    /// <summary>One of the conditions given is enough.</summary>
    Any,

    /// <summary>The conditions given must not hold.</summary>
    Not,
}
