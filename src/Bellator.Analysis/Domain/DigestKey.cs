namespace Bellator.Analysis.Domain;

/// <summary>What went into a digest beside the message, so that not everybody can make it.</summary>
public enum DigestKey : byte
{
    None,

    /// <summary>Something of the program's own stood in one text with the message: a key, or anything else.</summary>
    Mixed,

    /// <summary>A key: it is a message authentication code.</summary>
    Keyed,
}
