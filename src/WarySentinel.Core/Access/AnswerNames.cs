namespace WarySentinel.Core.Access;

/// <summary>The names of answers as they are written.</summary>
public static class AnswerNames
{
    /// <summary>All of them.</summary>
    public static readonly IReadOnlyList<string> All = ["auto", "sign-in", "password", "redirect", "message", "not-found", "register"];

    /// <summary>The name of an answer.</summary>
    public static string NameOf(Answer answer) => All[(int)answer];

    /// <summary>Reads the name of an answer.</summary>
    public static bool TryParse(string text, out Answer answer)
    {
        var at = All.ToList().IndexOf(text);
        answer = at < 0 ? Answer.Auto : (Answer)at;
        return at >= 0;
    }
}
