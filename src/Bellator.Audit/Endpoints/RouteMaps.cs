using System.Text.RegularExpressions;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Addresses that a table in the code lists, method and path as its keys: frameworks and home-made routers do so.</summary>
internal sealed partial class RouteMaps(ProgramModel program, CallRoutes surroundings)
{
    public IEnumerable<EntryPoint> Read()
    {
        foreach (var function in program.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i].Op != Opcode.Object)
                {
                    continue;
                }

                var entries = function.List(function.Instructions[i]).ToArray().Where(o => o.Name is not null && Key().IsMatch(o.Name)).ToList();
                foreach (var entry in entries.Count > 1 ? entries : [])
                {
                    var key = Key().Match(entry.Name!);
                    var (handler, name) = HandlerOf(function, entry.Value);
                    var at = entry.At == default ? function.LocationOf(entry.Value) : new Location(function.File.Index, entry.At.Start, entry.At.End);
                    var method = key.Groups[1].Value.ToUpperInvariant() is var said && said is "ANY" or "ALL" ? "*" : said;
                    yield return new EntryPoint(method, RoutePath.Normal(key.Groups[2].Value), handler, handler is null ? name : surroundings.Shown(handler), at, Languages.Family(function.File.Source.Language), handler is null ? [] : [.. surroundings.Surrounding(handler)]);
                }
            }
        }
    }

    private (IrFunction? Handler, string Name) HandlerOf(IrFunction function, int value)
    {
        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Opcode.Function:
                return (function.File.Functions[instruction.A], "");
            case Opcode.Constant when instruction.Text is { } text:
                return (Named(text), text);
            case Opcode.List or Opcode.Object:
                var parts = function.List(instruction).ToArray();
                var texts = parts.Select(p => (p.Name, Text: function.Instructions[p.Value] is { Op: Opcode.Constant, A: (int)LiteralKind.Text } c ? c.Text : function.Instructions[p.Value].Text)).Where(t => t.Text is not null).ToList();
                var controller = texts.Find(t => t.Name is "controller").Text;
                var action = texts.Find(t => t.Name is "action").Text;
                var named = action is not null ? controller is null ? action : controller + "." + action : texts.Count == 2 && texts.TrueForAll(t => t.Name is null or "0" or "1") ? texts[0].Text + "." + texts[1].Text : null;
                return named is null ? (null, "") : (Named(named), named);
            default:
                return (null, "");
        }
    }

    /// <summary>A class and its method, or a file of one action.</summary>
    private IrFunction? Named(string text)
    {
        var parts = text.Split('.', '@', '#', ':').Where(p => p.Length > 0).ToArray();
        if (parts is [.., var controller, var action])
        {
            var name = IrClass.ShortOf(controller.Replace('/', '.'));
            var type = program.Classes.FirstOrDefault(c => c.ShortName.Equals(name, StringComparison.OrdinalIgnoreCase)) ?? program.Classes.FirstOrDefault(c => c.ShortName.Equals(name + "Controller", StringComparison.OrdinalIgnoreCase));
            return type is null ? InFile(name, action) ?? InFile(name + "Controller", action) : program.FindMethod(type.Primary, action);
        }

        var file = program.Files.FirstOrDefault(f => (Path.ChangeExtension(f.Source.Path, null) ?? "").EndsWith("/controllers/" + text, StringComparison.Ordinal));
        return file?.Functions.FirstOrDefault(f => f.Name == "fn") ?? file?.Functions.FirstOrDefault(f => f.Outer is { IsTopLevel: true });
    }

    private IrFunction? InFile(string file, string function) =>
        program.Files.FirstOrDefault(f => Path.GetFileNameWithoutExtension(f.Source.Path).Equals(file, StringComparison.OrdinalIgnoreCase))?.Functions.FirstOrDefault(f => f.Name == function);

    [GeneratedRegex(@"^(GET|POST|PUT|PATCH|DELETE|HEAD|ANY|ALL)\s+(/\S*)$", RegexOptions.IgnoreCase, 200)]
    private static partial Regex Key();
}
