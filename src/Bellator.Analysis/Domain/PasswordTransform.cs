namespace Bellator.Analysis.Domain;

/// <summary>What was done to hide a value, from nothing to a deliberately slow hash.</summary>
public enum PasswordTransform
{
    Plain,
    Encoded,
    Encrypted,
    FastHash,
    SlowHash,
}
