namespace WarySentinel.Core.Access;

/// <summary>The gates and settings of a policy while changes are made to them.</summary>
public sealed class GatesDraft(IEnumerable<Gate> before, SiteSettings settings)
{
    /// <summary>By key.</summary>
    public Dictionary<string, Gate> Gates { get; } = before.ToDictionary(g => g.Key, StringComparer.Ordinal);

    /// <summary>The settings of the site.</summary>
    public SiteSettings Settings { get; set; } = settings;
}

/// <summary>An edit whose policy had to be compiled to judge it: nobody need compile that again.</summary>
public sealed record CompiledEdit : Edit
{
    /// <summary>The edit, with the policy as it stands after it.</summary>
    public CompiledEdit(Edit edit, Policy after)
        : base(edit) => Policy = after;

    /// <summary>The policy as it stands after it.</summary>
    public Policy Policy { get; }
}
