using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Checks.Exposure;

/// <summary>An answer contains the stored password of somebody.</summary>
public sealed class HashInResponse : Check
{
    public override string Id => "exposure/hash-in-response";

    public override string Title => "Password hash in a response";

    public override IReadOnlyList<int> Cwes => [200, 522];

    public override IReadOnlyList<string> Asvs => ["V14.2.6"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "The hash goes to the browser, into caches, logs and whatever else sees answers. Whoever gets it can guess the password at leisure; it has no use outside of the sign-in code.";

    public override string FalsePositiveIf => "The record leaves the hash out when it is made into JSON, by a rule of the model that was not read.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Answer with the columns that the page needs: res.json({ id: user.id, name: user.name }); ask for only these (returning({ id: users.id }), select(\"-passwordHash\")), or leave the hash out in the model's toJSON.",
        "csharp" => "Answer with a record of its own that has only what the page needs, not with the entity.",
        "python" => "Answer with a schema that lists the fields that the page needs, not with the row.",
        "ruby" => "Name the columns: render json: user.slice(:id, :name).",
        _ => "Answer with only the columns that the page needs, and hide the password in the model ($hidden).",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var records = new WholeRecords(context.Program, context.Schema, context.Accounts.Accounts, context.Words);
        foreach (var happening in context.EventsAt("response"))
        {
            if (happening.Role("value").HasParameters && context.Flow.IsCalled(happening.Function.Id))
            {
                // Its callers tell what they give it.
                continue;
            }

            if (records.PasswordIn(happening.Role("value"), happening.Function.File) is { } column)
            {
                var fetched = column.Contains(FunctionAnalyzer.RelationMark, StringComparison.Ordinal) ? FetchedAt(context, happening) : null;
                yield return new Finding
                {
                    Check = this,
                    At = fetched ?? happening.Place,
                    Related = fetched is null ? [] : [happening.Place],
                    Certainty = happening.Guessed ? Certainty.Matched : Certainty.Traced,
                    Message = $"The response contains the database column “{column}”.",
                    Subject = column,
                };
            }
            else if (Hash(context, happening.Role("value"), 0) is { } hash)
            {
                yield return new Finding
                {
                    Check = this,
                    At = happening.At,
                    Certainty = hash.Guessed || happening.Guessed ? Certainty.Matched : Certainty.Traced,
                    Message = hash.Origin.Kind == OriginKind.Stored
                        ? $"The stored password ({CheckContext.Describe(hash.Origin)}) is part of the answer."
                        : $"The record that is answered holds the hash of the password ({CheckContext.Describe(hash.Origin)}).",
                    Steps = CheckContext.Steps(hash, happening, "answered"),
                    Subject = hash.Origin.Name ?? "",
                };
            }
        }
    }

    /// <summary>Where the record is fetched whose related records come along: what of them is wanted is to be said there.</summary>
    private static Location? FetchedAt(CheckContext context, AnalysisEvent answer)
    {
        if (answer.Place != answer.At)
        {
            return null;
        }

        var fetched = context.Flow.SummaryOf(answer.Function).Events.Where(e => e.Function == answer.Function && e.Depth == 0 && (e is { Kind: EventKind.Access, Fact.Access.Action: "view" or "list" } || e.Kind is EventKind.Query or EventKind.Run)).Select(e => e.Place).Distinct().Take(2).ToList();
        return fetched is [var only] && only.Start < answer.At.Start ? only : null;
    }

    /// <summary>What is known to be the hash of a password, in a part of the answer that has the name of one.</summary>
    private static Taint? Hash(CheckContext context, AbstractValue value, int depth)
    {
        foreach (var (name, part) in value.Fields ?? new Dictionary<string, AbstractValue>())
        {
            if (context.Words.IsPasswordColumn(name) && part.Taints.FirstOrDefault(t => IsHash(context, t)) is { } found)
            {
                return found;
            }

            if (depth < AbstractValue.MaxDepth && Hash(context, part, depth + 1) is { } deeper)
            {
                return deeper;
            }
        }

        return null;
    }

    private static bool IsHash(CheckContext context, Taint taint) =>
        taint.Transform is PasswordTransform.SlowHash or PasswordTransform.FastHash
            ? context.Words.IsPassword(taint.Origin.Name)
            : taint.Origin.Kind == OriginKind.Stored && taint.Safe != OutputContext.All && context.Words.IsPasswordColumn(taint.Origin.Name);
}
