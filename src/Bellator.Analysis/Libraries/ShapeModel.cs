namespace Bellator.Analysis.Libraries;

/// <summary>Functions that read of their first parameter what a request has, and do with the last, or with the same one, what is done with an answer.</summary>
public sealed class ShapeModel
{
    /// <summary>The types of the first parameters.</summary>
    public List<string> Parameters { get; set; } = [];

    /// <summary>Members of which one is read of the first.</summary>
    public List<string> Reads { get; set; } = [];

    /// <summary>How many different ones of them are read.</summary>
    public int Least { get; set; } = 1;

    /// <summary>Methods of which one is called on the last; without any, and none of <see cref="Sets"/>, what is read decides.</summary>
    public List<string> Calls { get; set; } = [];

    /// <summary>Members of the last of which one is set instead.</summary>
    public List<string> Sets { get; set; } = [];

    /// <summary>Names of which the first parameter has one, where its use alone would be taken for something else too.</summary>
    public List<string> Named { get; set; } = [];
}
