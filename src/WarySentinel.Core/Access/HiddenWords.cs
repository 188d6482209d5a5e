namespace WarySentinel.Core.Access;

/// <summary>What becomes of the words of a hidden link that stands in running text.</summary>
public enum HiddenWords
{
    /// <summary>They stay, as plain words.</summary>
    Kept,
    /// <summary>They stay, and a mark behind them says that it is closed.</summary>
    Marked,
    /// <summary>They go; an ellipsis stands in their place, so that no sentence breaks off.</summary>
    LeftOut,
}

/// <summary>The names by which people set it.</summary>
public static class HiddenWordsNames
{
    /// <summary>All of them.</summary>
    public static readonly IReadOnlyList<string> All = ["kept", "marked", "left-out"];

    /// <summary>What a name stands for; one that is none, and is refused, where there is no such.</summary>
    public static HiddenWords Of(string? name) => (HiddenWords)All.ToList().IndexOf(name ?? "");

    /// <summary>The name of one.</summary>
    public static string NameOf(HiddenWords words) => All[(int)words];
}
