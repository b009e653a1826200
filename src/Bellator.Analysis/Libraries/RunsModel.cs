namespace Bellator.Analysis.Libraries;

/// <summary>Work that is done later with what is given now: a job's class, or a function.</summary>
public sealed class RunsModel
{
    /// <summary>The method that does the work, where an object of a class does it.</summary>
    public string Method { get; set; } = "";

    /// <summary>The argument that is the job, or the function; null for the call's own object.</summary>
    public int? At { get; set; }

    /// <summary>The first argument that the work gets.</summary>
    public int From { get; set; }

    /// <summary>An object of the class is made of the arguments; the method gets none.</summary>
    public bool Constructs { get; set; }

    /// <summary>The work gets the parts of that argument, or of the option of this name.</summary>
    public string? ListField { get; set; }
}
