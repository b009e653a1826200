using Bellator.Audit.Witnesses;

namespace Bellator.Web.Presentation;

/// <summary>A witness's two forms with the part that differs apart, so that the eye finds it.</summary>
public sealed record WitnessView(WitnessForm Ordinary, WitnessForm Crafted, string Lead, string CraftedLead, string Explanation)
{
    private const int Context = 60;

    public static WitnessView Of(Witness witness)
    {
        var (ordinary, crafted) = (Flat(witness.Ordinary), Flat(witness.Crafted));
        var start = 0;
        while (start < ordinary.Length && start < crafted.Length && ordinary[start] == crafted[start])
        {
            start++;
        }

        var end = 0;
        while (end < ordinary.Length - start && end < crafted.Length - start && ordinary[^(end + 1)] == crafted[^(end + 1)])
        {
            end++;
        }

        var (lead, craftedLead) = witness.Kind switch
        {
            "statement" => ("An ordinary value leaves one statement:", "This value changes what the statement is:"),
            "address" => ("An ordinary value stays on the site:", "This one leaves it:"),
            "file" => ("An ordinary value stays in its folder:", "This one leaves it:"),
            _ => ("An ordinary request:", "This one means something else:"),
        };
        return new WitnessView(Form(ordinary, start, end), Form(crafted, start, end), lead, craftedLead, witness.Explanation);
    }

    private static string Flat(string text) => string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)) + (text.EndsWith(' ') ? " " : "");

    private static WitnessForm Form(string text, int start, int end)
    {
        var before = text[..start];
        var after = text[(text.Length - end)..];
        return new WitnessForm(
            before.Length > Context ? "… " + before[^Context..] : before,
            text[start..(text.Length - end)],
            after.Length > Context ? after[..Context] + " …" : after);
    }
}

public sealed record WitnessForm(string Before, string Value, string After);
