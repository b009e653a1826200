using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sql;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Sessions;

/// <summary>A look-up by which a kept credential is recognised.</summary>
/// <param name="Sent">What of the request it is looked up by.</param>
/// <param name="Looked">All that the look-up, and the code around it, looks at: columns in its condition and members read of its rows.</param>
/// <param name="Tables">The tables that it joins.</param>
public sealed record CredentialLookup(Location At, IrFunction Function, Taint Sent, IReadOnlySet<string> Looked, IReadOnlyList<string> Tables)
{
    /// <summary>What is done with the row: it is found, or deleted.</summary>
    public RecordAction Action { get; init; }

    /// <summary>The same, where it may come in the address as well.</summary>
    public Taint? InAddress { get; init; }
}

/// <summary>A credential of the application’s own of which the server keeps a row: a remember-me token, a device, a session, a refresh token.</summary>
public sealed class KeptCredential(string table, string column)
{
    public string Table { get; } = table;

    /// <summary>The column that is held against what was sent.</summary>
    public string Column { get; } = column;

    public List<CredentialLookup> Lookups { get; } = [];

    /// <summary>Where rows are made.</summary>
    public List<Location> Issued { get; } = [];

    /// <summary>The browser sends it by itself.</summary>
    public bool IsCookie => Lookups.Exists(l => l.Sent.Origin.Part == "cookie" || l.Sent.Origin.Kind == OriginKind.Subject);

    /// <summary>The name of the cookie or header.</summary>
    public string Carrier => Lookups.Select(l => l.Sent.Origin).OrderByDescending(o => o.Part == "cookie").Select(o => o.Name).FirstOrDefault() ?? "";

    /// <summary>What is kept is what is sent: a look-up finds the row by it as it came.</summary>
    public bool IsPlain => Lookups.Exists(l => l.Sent.Transform is PasswordTransform.Plain or PasswordTransform.Encoded);
}

/// <summary>
/// The credentials that the server keeps, found by how they are checked: rows are looked up by a value that came in a cookie or in a header.
/// </summary>
public sealed class KeptCredentials
{
    private readonly Dictionary<string, KeptCredential> _byTable = new(StringComparer.OrdinalIgnoreCase);

    public KeptCredentials(AccountContext context, AccessMap map, IEnumerable<AnalysisEvent> uses)
    {
        var all = uses.ToList();
        foreach (var use in all)
        {
            foreach (var (access, terms) in map.RowsOf(use).Where(r => r.Access.Action is not (RecordAction.Create or RecordAction.Edit) && !r.Access.IsGuess))
            {
                foreach (var term in terms.Request)
                {
                    if ((context.Schema.Find(access.Table) is not { Columns.Count: > 0 } table || table.Find(term.Column) is not null) && !IsTiedToPerson(context, access.Table, terms, term) && term.Taints.FirstOrDefault(t => t.Origin.Part is "cookie" or "header") is { Origin.Name: { } name } sent && (context.Words.IsCredential(name) || context.Words.IsSecretToken(name) || context.Words.IsSecretToken(term.Column) || context.Words.IsSecretToken(IdentifierClassifier.Singular(access.Table)) || (sent.Origin.Part == "cookie" && KeepsTokens(context, access.Table))) && !context.Words.IsPassword(name))
                    {
                        Add(context, use, access, terms, term, sent);
                    }
                }

                // A signed cookie says itself who comes; where a row is looked up by a token that is in it, the row is the credential.
                foreach (var term in terms.Subject.Where(_ => !context.Accounts.Has(access.Table)))
                {
                    if (term.Taints.FirstOrDefault(t => t is { Selects: false, Origin: { Kind: OriginKind.Subject, Name: { Length: > 0 } name } } && IsTokenOf(context, access.Table, term.Column, name)) is { } signed)
                    {
                        Add(context, use, access, terms, term, signed);
                    }
                }
            }
        }

        AddIssued(context, all);
    }

    /// <summary>The table is one of tokens and the column holds them, or what is in the cookie is named for one: <c>session["sid"]</c>.</summary>
    private static bool IsTokenOf(AccountContext context, string table, string column, string name) =>
        (context.Words.IsSecretToken(IdentifierClassifier.Singular(table)) && (context.Words.IsSecretToken(column) || context.Words.IsAnyHash(column))) || context.Words.IsSecretToken(name);

    /// <summary>Its rows have tokens, whatever part of the cookie they are looked up by: the token may be compared in the code.</summary>
    private static bool KeepsTokens(AccountContext context, string table) =>
        !context.Accounts.Has(table) && context.Schema.Find(table) is { } known && known.Columns.Exists(c => context.Words.IsSecretToken(c.Name));

    /// <summary>The person is known already: the row only says something more of the browser, such as that it is trusted.</summary>
    private static bool IsTiedToPerson(AccountContext context, string table, RowTerms terms, RowTerm credential) =>
        terms.OfSubject || (context.Schema.Find(table) is { } known && known.Columns.Exists(c => !c.Name.Equals(credential.Column, StringComparison.OrdinalIgnoreCase) && terms.Other.Contains(c.Name, StringComparer.OrdinalIgnoreCase) && ColumnMeanings.Of(c, known, context.Words).Meaning == ColumnMeanings.Owner));

    /// <summary>Where rows are made of the tables that were found.</summary>
    private void AddIssued(AccountContext context, List<AnalysisEvent> uses)
    {
        foreach (var access in _byTable.Count == 0 ? [] : uses.SelectMany(context.Surface.AccessesOf).Where(a => a.Action == RecordAction.Create))
        {
            if (_byTable.TryGetValue(access.Table, out var kept) && !kept.Issued.Contains(access.At))
            {
                kept.Issued.Add(access.At);
            }
        }
    }

    public IReadOnlyCollection<KeptCredential> All => _byTable.Values;

    private void Add(AccountContext context, AnalysisEvent use, TableAccess access, RowTerms terms, RowTerm term, Taint sent)
    {
        if (!_byTable.TryGetValue(access.Table, out var kept))
        {
            _byTable[access.Table] = kept = new KeptCredential(access.Table, term.Column);
        }

        var statements = SqlTexts.Of(use.Role("text"));
        var looked = new HashSet<string>(terms.Other, StringComparer.OrdinalIgnoreCase);
        looked.UnionWith(FieldNames.ReadIn(use.Function));
        looked.UnionWith(FieldNames.ReadIn(access.Function));
        kept.Lookups.Add(new CredentialLookup(access.At, use.Function, sent, looked, [.. statements.SelectMany(s => s.Tables).Append(access.Table).Distinct(StringComparer.OrdinalIgnoreCase)])
        {
            Action = access.Action,
            InAddress = term.Taints.FirstOrDefault(t => t.Origin is { Part: "query" or "input", Name: { } name } && (context.Words.IsCredential(name) || context.Words.IsSecretToken(name))),
        });
    }
}
