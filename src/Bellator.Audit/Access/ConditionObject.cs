using Bellator.Analysis.Domain;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Audit.Access;

/// <summary>
/// A condition that a mapper is given as an object: columns with what they are held against, under keys that say how. Over a relation the
/// column has the names on the way: <c>loan.keeperId</c>.
/// </summary>
internal sealed class ConditionObject
{
    private readonly IdentifierClassifier _words;
    private readonly List<(string Column, AbstractValue Value)> _columns = [];

    private ConditionObject(IdentifierClassifier words) => _words = words;

    public IReadOnlyList<(string Column, AbstractValue Value)> Columns => _columns;

    /// <summary>Alternatives of which only some are tied to the person, or parts that were not understood.</summary>
    public bool HasUnknown { get; private set; }

    public static ConditionObject Of(AbstractValue given, IdentifierClassifier words)
    {
        var condition = new ConditionObject(words);
        if (given is { Fields: null, Text: { } text } && text.Alternatives.Any(a => a.Any(p => p.Literal?.Contains(' ', StringComparison.Ordinal) ?? false)))
        {
            // A condition written as text, not a value that names a row.
            condition.HasUnknown = true;
        }
        else if (given is { Fields: null, Taints.Count: > 0 })
        {
            condition._columns.Add((RowTerms.Key, given));
        }
        else
        {
            condition.Collect(given, "", 0);
        }

        foreach (var mark in given.Types.Where(t => t.StartsWith(FunctionAnalyzer.SometimesMark, StringComparison.Ordinal)))
        {
            // On some ways the person is not among the conditions.
            var isAsked = mark.StartsWith(FunctionAnalyzer.IfAskedMark, StringComparison.Ordinal);
            var column = mark[(isAsked ? FunctionAnalyzer.IfAskedMark : FunctionAnalyzer.SometimesMark).Length..];
            condition.HasUnknown |= condition._columns.RemoveAll(c => c.Column == column) > 0;
            if (isAsked)
            {
                condition._columns.Add((FunctionAnalyzer.OnlyIfAsked + column, AbstractValue.OfConstant(LiteralKind.Text, "")));
            }
        }

        return condition;
    }

    private void Collect(AbstractValue value, string path, int depth)
    {
        foreach (var (name, part) in value.Fields ?? [])
        {
            if (_words.IsConditionAny(name))
            {
                CollectAlternatives(part, path, depth);
            }
            else if (_words.IsConditionNot(name))
            {
                // What is not the person's says nothing of whose it is.
                if (RowTerms.IsSubject(part))
                {
                    HasUnknown = true;
                }
            }
            else if (_words.IsConditionPart(name) || name.Length == 0 || char.IsAsciiDigit(name[0]))
            {
                // A test of the column around it, or one of several conditions.
                if (part.Fields is not null && depth < AbstractValue.MaxDepth)
                {
                    Collect(part, path, depth + 1);
                }
                else if (path.Length > 0)
                {
                    _columns.Add((path, part));
                }
            }
            else
            {
                // Which column is meant may be decided elsewhere. A key over several columns has their names joined: <c>userId_orgId</c>.
                var own = char.IsLetter(name[0]) || name[0] == '_' ? name : "?";
                var column = part.Fields is { Count: > 1 } && name == string.Join('_', part.Fields.Keys) ? path : path.Length == 0 ? own : $"{path}.{own}";
                if (part.Fields is { Count: > 0 } && depth < AbstractValue.MaxDepth)
                {
                    var before = _columns.Count;
                    Collect(part, column, depth + 1);
                    if (_columns.Count == before)
                    {
                        _columns.Add((column, part));
                    }
                }
                else
                {
                    _columns.Add((column, part));
                }
            }
        }
    }

    private void CollectAlternatives(AbstractValue given, string path, int depth)
    {
        var alternatives = (given.Fields?.Values.ToList() ?? []).ConvertAll(v =>
        {
            var alternative = new ConditionObject(_words);
            alternative.Collect(v, path, depth + 1);
            return alternative;
        });
        if (alternatives.Count > 0 && alternatives.TrueForAll(a => a._columns.Exists(c => RowTerms.IsSubject(c.Value))))
        {
            _columns.AddRange(alternatives.SelectMany(a => a._columns.Where(c => RowTerms.IsSubject(c.Value))));
        }
        else
        {
            if (alternatives.Exists(a => a._columns.Exists(c => RowTerms.IsSubject(c.Value))))
            {
                // Whoever asks gets their own rows, or those of the other alternative.
                _columns.AddRange(alternatives.Where(a => a is { HasUnknown: false, _columns.Count: > 0 } && !a._columns.Exists(c => RowTerms.IsSubject(c.Value)))
                    .Select(a => (FunctionAnalyzer.WidenedBy + string.Join(", ", a._columns.Select(c => c.Column).Distinct()), AbstractValue.OfConstant(LiteralKind.Text, ""))));
            }

            HasUnknown |= alternatives.Count == 0 || alternatives.Exists(a => a.HasUnknown || a._columns.Exists(c => RowTerms.IsSubject(c.Value)));
        }
    }
}
