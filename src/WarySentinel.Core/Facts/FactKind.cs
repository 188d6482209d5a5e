namespace WarySentinel.Core.Facts;

/// <summary>What an atom with a key tests.</summary>
public enum FactKind
{
    /// <summary>A role of a member.</summary>
    Role,
    /// <summary>A set of customers.</summary>
    Group,
    /// <summary>A membership.</summary>
    Plan,
    /// <summary>A purchase of an item.</summary>
    Bought,
    /// <summary>One member, by e-mail address.</summary>
    Member,
    /// <summary>A pass.</summary>
    Pass,
}

/// <summary>The names of fact kinds as they are written.</summary>
public static class FactNames
{
    private static readonly string[] Names = ["role", "group", "plan", "bought", "member", "pass"];

    /// <summary>The name of a kind.</summary>
    public static string NameOf(FactKind kind) => Names[(int)kind];

    /// <summary>Reads the name of a kind.</summary>
    public static bool TryParse(string text, out FactKind kind)
    {
        var at = Array.IndexOf(Names, text);
        kind = (FactKind)Math.Max(at, 0);
        return at >= 0;
    }
}
