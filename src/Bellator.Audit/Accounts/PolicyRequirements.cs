namespace Bellator.Audit.Accounts;

public enum RequirementState
{
    Met,
    NotMet,

    /// <summary>The code does not tell.</summary>
    Unclear,
}

/// <summary>A published requirement held against what was found.</summary>
/// <param name="Source">Document and number.</param>
public sealed record PolicyRequirement(string Source, string Text, RequirementState State, string Found);

/// <summary>
/// What NIST SP 800-63B-4 (July 2025), section 3.1.1.2, and OWASP ASVS 5.0 (May 2025), chapter V6.2, ask of passwords. Wording is ours;
/// sections and numbers were written down from memory.
/// </summary>
public static class PolicyRequirements
{
    private const string Nist = "NIST SP 800-63B-4, 3.1.1.2";

    public static IReadOnlyList<PolicyRequirement> Judge(PasswordPolicy policy, bool? throttled, bool? slowHash)
    {
        var minimum = policy.Minimum;
        var maximum = policy.Maximum;
        var refused = policy.RefusesCommon ? 3000 : RefusedOfTop(policy);
        RequirementState AtLeast(int signs) => policy.HasUnknownMinimum ? RequirementState.Unclear : minimum >= signs ? RequirementState.Met : RequirementState.NotMet;
        var found = policy.HasUnknownMinimum ? "as many as a setting says" : minimum > 0 ? $"{minimum} signs or more" : "no least length was found";
        return
        [
            new(Nist, "At least 15 signs where the password is all there is", AtLeast(15), found),
            new(Nist, "At least 8 signs where there is a second factor too", AtLeast(8), found),
            new(Nist, "64 signs and more are taken", maximum is null or >= 64 ? RequirementState.Met : RequirementState.NotMet, maximum is { } most ? $"at most {most}" : "no upper length in the code"),
            new(Nist, "No rules about which kinds of signs there must be", policy.Composes ? RequirementState.NotMet : RequirementState.Met, policy.Composes ? string.Join(", ", policy.Rules.Where(r => r.Kind is "digit" or "lower" or "upper" or "other" or "distinct" or "pattern").Select(r => r.Kind).Distinct()) : "none was found"),
            new(Nist, "Compared with a list of passwords that are common or known from leaks", policy.RefusesCommon ? RequirementState.Met : RequirementState.NotMet, policy.RefusesCommon ? "a list is used" : "no list was found"),
            new(Nist, "The whole password is verified, nothing cut off", policy.ReadsBytes is { } bytes ? maximum <= bytes ? RequirementState.Met : RequirementState.NotMet : policy.Scheme is null or "configured" or "" ? RequirementState.Unclear : RequirementState.Met, policy.ReadsBytes is { } read ? $"{policy.Scheme} reads {read} bytes" : "the hash reads all of it"),
            new(Nist, "Tries are limited", throttled switch { true => RequirementState.Met, false => RequirementState.NotMet, _ => RequirementState.Unclear }, throttled switch { true => "a limit was found", false => "no limit was found", _ => "no sign-in was found" }),
            new(Nist, "Kept salted, by a function with a cost", slowHash switch { true => RequirementState.Met, false => RequirementState.NotMet, _ => RequirementState.Unclear }, policy.Scheme is { Length: > 0 } scheme ? scheme : "not seen"),
            new("OWASP ASVS 5.0, V6.2.1", "At least 8 signs, better 15", AtLeast(8), found),
            new("OWASP ASVS 5.0, V6.2.4", "The 3000 most common are refused", refused == 3000 ? RequirementState.Met : policy.HasUnknownMinimum ? RequirementState.Unclear : RequirementState.NotMet, policy.RefusesCommon ? "a list is used" : $"{refused} of 3000 are refused by the other rules"),
            new("OWASP ASVS 5.0, V6.2.5", "Any kinds of signs may be used", policy.Composes ? RequirementState.NotMet : RequirementState.Met, policy.Composes ? "some are demanded" : "none is demanded"),
            new("OWASP ASVS 5.0, V6.2.9", "At least 64 signs are permitted", maximum is null or >= 64 ? RequirementState.Met : RequirementState.NotMet, maximum is { } top ? $"at most {top}" : "no upper length in the code"),
        ];
    }

    private static int RefusedOfTop(PasswordPolicy policy) => policy.Try(3000) is var (tried, accepted, _) ? tried - accepted : 0;
}
