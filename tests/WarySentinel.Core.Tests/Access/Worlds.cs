using FsCheck;
using FsCheck.Fluent;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Oracle;

namespace WarySentinel.Core.Tests.Access;

/// <summary>Made-up sites, and what Core makes of them.</summary>
public static class Worlds
{
    public static Arbitrary<World> Any() => Gen.Choose(0, int.MaxValue).Select(seed => World.Make(new Random(seed))).ToArbitrary();

    public static Policy Build(this World world, Random? shuffle = null) => Policy.Build(
        Shuffled(world.Items.Select(ToItem), shuffle), Shuffled(world.Gates.Select(ToGate), shuffle), [], new SiteSettings
        { StaffPasses = world.StaffPasses }).Value;

    public static Item ToItem(this OracleItem item) => Scene.Item(item.Id, item.Parents, item.Addresses);

    public static Gate ToGate(this OracleGate gate) => new()
    {
        Key = gate.Key,
        Title = gate.Key,
        Covers = [.. gate.Covers.Select(Selector.Parse)],
        ItemOnly = gate.ItemOnly,
        IsExemption = gate.Exempts,
        Audience = AudienceParser.Parse(gate.Audience.Text).Value,
        Acts = gate.Acts.Length == 0 ? Acts.Usual : gate.Acts.Select(ActOf).Aggregate((a, b) => a | b),
        Presence = gate.Hidden ? Presence.Hidden : Presence.Listed,
        Answer = AnswerNames.TryParse(gate.Answer, out var answer) ? answer : throw new FormatException(gate.Answer),
        From = gate.From,
        Until = gate.Until,
        Enabled = gate.Enabled,
    };

    public static Visitor ToVisitor(this OracleVisitor visitor)
    {
        var status = Enum.Parse<MemberStatus>(visitor.Status, true);
        var grants = visitor.Facts.Select(f => f.Split(':'))
            .Select(f => new Grant(FactNames.TryParse(f[0], out var kind) ? kind : throw new FormatException(f[0]), f[1])).ToList();
        var who = visitor.Email is null ? Visitor.Guest : new Member(Guid.NewGuid(), visitor.Email, "Name", null, null, status, grants, Scene.Now).AsVisitor();
        return who.Having([.. visitor.Unlocked.Select(g => new Unlock(g, DateTimeOffset.MaxValue))]);
    }

    public static Acts ActOf(string name) => ActNames.TryParse(name, out var act) ? act : throw new FormatException(name);

    private static IEnumerable<T> Shuffled<T>(IEnumerable<T> all, Random? random) => random is null ? all : all.OrderBy(_ => random.Next());
}
