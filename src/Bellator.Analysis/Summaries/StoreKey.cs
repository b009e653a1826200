namespace Bellator.Analysis.Summaries;

/// <summary>A place outside of functions where values are kept: a field of a class, a shared variable, a module's export.</summary>
public readonly record struct StoreKey(StoreKind Kind, int Owner, string Name)
{
    public bool Equals(StoreKey other) => Owner == other.Owner && Kind == other.Kind && Name == other.Name;

    /// <summary>Of the name only the ends count: keys are looked up millions of times, and names differ there.</summary>
    public override int GetHashCode()
    {
        var hash = ((int)Kind * 31) + Owner;
        var length = Name.Length;
        hash = (hash * 31) + length;
        for (var i = 0; i < Math.Min(4, length); i++)
        {
            hash = (hash * 31) + Name[i];
            hash = (hash * 31) + Name[length - 1 - i];
        }

        return hash;
    }
}

public enum StoreKind
{
    Field,
    Cell,
    Shared,
    Export,

    /// <summary>A value handed to a page template.</summary>
    View,

    /// <summary>A setting of a library, by its path.</summary>
    Library,

    /// <summary>A constant of the program, by its name.</summary>
    Constant,

    /// <summary>What is known of a function, or of one of its parameters.</summary>
    Function,
}
