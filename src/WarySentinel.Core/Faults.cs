namespace WarySentinel.Core;

/// <summary>Gathers everything that is wrong with an input, so that it is told at once.</summary>
public sealed class Faults
{
    private readonly List<Fault> all = [];
    private string? first;

    /// <summary>Whether anything is wrong so far.</summary>
    public bool Any => all.Count > 0;

    /// <summary>Notes that a field is wrong, worded by the resource entry of the code.</summary>
    public void Bad(string field, string code, params object?[] values)
    {
        first ??= code;
        all.Add(new Fault(field, Wording.Of("problem." + code, values)));
    }

    /// <summary>Notes that a place in a text is wrong. The values of its words begin with line and column, from 1.</summary>
    public void BadAt(string field, string code, int line, int column, params object?[] values)
    {
        first ??= code;
        all.Add(new Fault(field, Wording.Of("problem." + code, [line, column, .. values]), line, column));
    }

    /// <summary>Notes that a field is wrong, unless it is as it should be.</summary>
    public void Unless(bool good, string field, string code, params object?[] values)
    {
        if (!good)
        {
            Bad(field, code, values);
        }
    }

    /// <summary>Notes what somebody else found wrong.</summary>
    public void Take(Problem problem)
    {
        first ??= problem.Code;
        all.AddRange(problem.Faults);
    }

    /// <summary>Notes what somebody else found wrong with a field, in their words.</summary>
    public void Take(string field, Problem problem)
    {
        first ??= problem.Code;
        all.Add(new Fault(field, problem.Detail));
    }

    /// <summary>The problem of all of it: under the code of the first, and in its words where it is the only one.</summary>
    public Problem ToProblem() =>
        new(ProblemKind.Invalid, first!, all.Count == 1 ? all[0].Message : Wording.Of("problem.several", all.Count), all);

    /// <summary>The problem of all of it under one code, in the words of the first.</summary>
    public Problem ToProblem(string code) => new(ProblemKind.Invalid, code, all[0].Message, all);
}
