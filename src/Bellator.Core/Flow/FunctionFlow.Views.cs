using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Sources;

namespace Bellator.Core.Flow;

/// <summary>Connects page templates with the code that fills them.</summary>
internal sealed partial class FunctionFlow
{
    /// <summary>The name under which a template knows the one object that it shows.</summary>
    private const string ModelName = "<model>";

    private bool IsTemplate => Languages.IsTemplate(_file.Source.Language);

    private void HandToView(RenderFact render, CallSite site)
    {
        var positional = site.Names.Count == 0 ? site : site.Arranged([]);
        var name = render.Template is { } at ? positional.Argument(at).Constant : null;
        if (_program.Views.Find(name, _function) is not (>= 0 and var view))
        {
            return;
        }

        if (render.Model is { } model)
        {
            var shown = positional.Argument(model);
            Keep(new StoreKey(StoreKind.View, view, ModelName), name is not null && shown.Constant == name ? positional.Argument(model + 1) : shown);
        }

        for (var i = 0; i < site.Names.Count; i++)
        {
            if (site.Names[i] is { } given)
            {
                Keep(new StoreKey(StoreKind.View, view, given), site.Arguments[i]);
            }
        }

        foreach (var (given, value) in (render.Values is { } values ? positional.Argument(values).Fields : null) ?? new Dictionary<string, Value>())
        {
            Keep(new StoreKey(StoreKind.View, view, given), value);
        }
    }

    /// <summary>A value that a template uses without making it.</summary>
    private Value FromView(string name) => _program.Load(new StoreKey(StoreKind.View, _file.Index, name.TrimStart('$')), _function) is { } given
        ? given.Label is null ? given.With(label: name) : given
        : Value.Unknown;
}
