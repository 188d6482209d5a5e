using WarySentinel.Core.Access;

namespace WarySentinel.Core.Gates;

/// <summary>Stores a gate or exemption.</summary>
public sealed record GatePut(Gate Gate) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Part<GatesDraft>().Gates[Gate.Key] = Gate;
}

/// <summary>Drops a gate, with its shared passwords.</summary>
public sealed record GateDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        draft.Part<GatesDraft>().Gates.Remove(Key);
        draft.Set(draft.Part<PasswordAsks>().Without(Key));
    }
}

/// <summary>Stores the settings of the site.</summary>
public sealed record SettingsPut(SiteSettings Settings) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Part<GatesDraft>().Settings = Settings;
}
