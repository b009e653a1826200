using Bellator.Core.Flow;

namespace Bellator.Core.Checks.Passwords;

/// <summary>A password goes into the database as it was typed.</summary>
public sealed class StoredPlain : Check
{
    public override string Id => "passwords/stored-plain";

    public override string Title => "Password is stored as it was typed";

    public override IReadOnlyList<int> Cwes => [256];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:H/UI:N/S:C/C:H/I:L/A:N";

    public override string Why =>
        "Whoever sees the table, a backup or a log of statements has every password at once, and people use the same password elsewhere.";

    public override string FalseAlarm => "The value is hashed by the database itself (a trigger), or is not a person's password but a secret the program must be able to read.";

    public override string Mend(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var use in Statements.Uses(context))
        {
            if (!use.Statement.Writes || use.Slot.Clause == Application.SqlClause.Where || use.Slot.Function is { Length: > 2 } && HashedInQuery.IsHashFunction(use.Slot.Function))
            {
                continue;
            }

            if (context.Passwords(use.Taints).FirstOrDefault(t => t.Hiding is Hiding.Plain or Hiding.Encoded) is { } password)
            {
                var column = use.Slot.Column is null ? "a table" : $"the column “{use.Slot.Column}”";
                yield return new Finding
                {
                    Check = this,
                    At = use.Event.Place,
                    Certainty = CheckContext.CertaintyOf(password, use.Event.Guessed),
                    Message = password.Hiding == Hiding.Plain
                        ? $"The password ({CheckContext.Describe(password.Origin)}) is written to {column} without being hashed."
                        : $"The password ({CheckContext.Describe(password.Origin)}) is written to {column} only encoded, which anyone can undo.",
                    Steps = CheckContext.Steps(password, use.Event, "written to the database"),
                    MoreCwes = password.Hiding == Hiding.Plain ? [] : [261],
                    Subject = use.Slot.Column ?? "",
                };
            }
        }
    }
}
