using System.Text.Json.Serialization;
using WarySentinel.Contract.Access;

namespace WarySentinel.Contract.Facts;

/// <summary>A role, group or plan.</summary>
/// <param name="Key">Its name in audiences.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Members">How many were given it and have it still; whom a rule puts into a group is not counted here.</param>
/// <param name="Version">Counts up with each change.</param>
/// <param name="BuiltIn">Whether it is a staff right and no role of the site.</param>
/// <param name="Home">Of a role: where those who hold it are at home on the site.</param>
/// <param name="Links">Of a role: what it adds to the account menu, in order.</param>
/// <param name="Rule">Of a group: the audience whose members are in it, at once and for as long as that is so.</param>
/// <param name="Length">Of a plan: how long it lasts when it is given (ISO 8601), such as <c>P30D</c>, <c>P1M</c>; null for as long as nobody ends it.</param>
/// <param name="Grace">Of a plan: how long it goes on after its end where it is paid for by orders (ISO 8601); null for not at all.</param>
/// <param name="Remind">Of a plan: how long before its end whoever has it is reminded, and once more when it is over (ISO 8601); null for not at all.</param>
/// <param name="Starts">Of a plan: when the time that an order pays for begins: <c>at-once</c>, <c>by-hand</c> or <c>on-use</c>.</param>
public sealed record FactDefinitionView(
    string Key, string Title, int Members, int Version, bool BuiltIn, string? Home, IReadOnlyList<SiteLink> Links, string? Rule, string? Length = null,
    string? Grace = null, string? Remind = null, string? Starts = null);

/// <summary>A role, group or plan to be added or changed.</summary>
/// <param name="Key">Its name in audiences; made of the title unless said.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Home">Of a role: where those who hold it are at home on the site.</param>
/// <param name="Links">Of a role: what it adds to the account menu, in order.</param>
/// <param name="Rule">Of a group: the audience whose members are in it.</param>
/// <param name="Like">Another that it is copied from: its pages, and every audience that names the other names it too.</param>
/// <param name="Length">Of a plan: how long it lasts when it is given (ISO 8601), such as <c>P30D</c>, <c>P1M</c>.</param>
/// <param name="Grace">Of a plan: how long it goes on after its end where it is paid for by orders (ISO 8601).</param>
/// <param name="Remind">Of a plan: how long before its end whoever has it is reminded (ISO 8601).</param>
/// <param name="Starts">Of a plan: when the time that an order pays for begins: <c>at-once</c>, <c>by-hand</c> or <c>on-use</c>; at once unless said.</param>
public sealed record FactDefinitionDraft(
    string? Key, string? Title, string? Home = null, IReadOnlyList<SiteLink>? Links = null, string? Rule = null, string? Like = null, string? Length = null,
    string? Grace = null, string? Remind = null, string? Starts = null);

/// <summary>What hangs on a role, group or plan.</summary>
/// <param name="Named">What names it: <c>gate</c>, <c>redirect</c>, <c>group</c> or <c>password</c>, with its key and its audience.</param>
/// <param name="Members">How many were given it and have it still.</param>
/// <param name="Organisations">The first of the organisations whose people hold it, by key.</param>
public sealed record FactUsesView(IReadOnlyList<FactUseView> Named, int Members, IReadOnlyList<string> Organisations);

/// <summary>Something whose audience names a role, group or plan.</summary>
public sealed record FactUseView(string Kind, string Key, string Audience);

/// <summary>Another key for a role, group or plan.</summary>
public sealed record FactKeyDraft([property: JsonRequired] string To);

/// <summary>What takes the place of a role, group or plan that is retired.</summary>
/// <param name="To">The key of another of its kind; left out, it ends for whoever holds it, and nothing may name it still.</param>
public sealed record FactRetireDraft(string? To = null);
