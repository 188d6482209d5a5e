using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>Adds, changes and removes roles, groups and plans.</summary>
public static class FactCommands
{
    /// <summary>Adds one.</summary>
    public static Outcome<Edit<FactDefinition>> Add(Policy policy, FactKind kind, string? key, string? title)
    {
        var name = FactNames.NameOf(kind);
        title = title?.Trim();
        if (string.IsNullOrEmpty(title) || title.Length > 120 || !PlainText.IsClean(title))
        {
            return Problem.In("title", "title-length", 120);
        }

        key = string.IsNullOrWhiteSpace(key) ? Slug.Of(title) : key;
        if (!CatalogueKey.IsValid(key))
        {
            return Problem.In("key", "key-form", key);
        }

        if (policy.FindDefinition(kind, key) is not null || (kind == FactKind.Role && Visitor.StaffRoles.Contains(key)))
        {
            return Problem.Of(ProblemKind.Conflict, "standing-exists", name, key);
        }

        var fresh = new FactDefinition(kind, key, title);
        return new Edit<FactDefinition>(new Edit(name + ".add", key, [new FactDefinitionPut(fresh)], null, title), fresh);
    }

    /// <summary>Gives one another title.</summary>
    public static Outcome<Edit<FactDefinition>> Rename(FactDefinition old, string? title)
    {
        title = title?.Trim();
        if (string.IsNullOrEmpty(title) || title.Length > 120 || !PlainText.IsClean(title))
        {
            return Problem.In("title", "title-length", 120);
        }

        var after = old with { Title = title, Version = old.Version + 1 };
        return new Edit<FactDefinition>(new Edit(FactNames.NameOf(old.Kind) + ".set", old.Key, [new FactDefinitionPut(after)], old.Title, title), after);
    }

    /// <summary>Removes one. Refused while a gate names it, or members hold it.</summary>
    public static Outcome<Edit<FactDefinition>> Remove(Policy policy, FactKind kind, string key, int holders)
    {
        var name = FactNames.NameOf(kind);
        if (policy.FindDefinition(kind, key) is not { } old)
        {
            return Problem.Of(ProblemKind.NotFound, "standing-unknown", name, key);
        }

        bool Names(Audience audience) => audience.Atoms().Any(a => a is Audience.Fact fact && fact.Kind == kind && fact.Key == key);
        if (policy.Parts.All.SelectMany(p => p.Audiences).FirstOrDefault(a => Names(a.Audience)) is { } naming)
        {
            return Problem.Of(ProblemKind.Conflict, "standing-in-" + naming.Kind, name, key, naming.Key);
        }

        var gate = policy.Gates.FirstOrDefault(g => Names(g.Audience));
        return gate is not null ? Problem.Of(ProblemKind.Conflict, "standing-in-gate", name, key, gate.Key)
            : holders > 0 ? Held(name, key, holders)
            : new Edit<FactDefinition>(new Edit(name + ".remove", key, [new FactDefinitionDropped(kind, key)], old.Title), old);
    }

    /// <summary>The problem of one that members hold.</summary>
    public static Problem Held(string name, string key, int holders) =>
        new(ProblemKind.Conflict, "standing-held", Wording.Count("problem.standing-held", holders, name, key), []);
}
