using Mono.Cecil;
using Mono.Cecil.Cil;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests;

/// <summary>
/// Inside every project stand the same rooms, and they only point down (docs/architecture.md). What a project's hall holds, the namespace of the project
/// itself, puts the rooms together and may know all of them; in the heart it knows none.
/// </summary>
public sealed class RoomTests
{
    /// <summary>The rooms that each room may know, besides what those know.</summary>
    private static readonly Dictionary<string, string[]> Arrows = new(StringComparer.Ordinal)
    {
        ["Catalogue"] = [],
        ["Facts"] = [],
        ["Markup"] = [],
        ["Access"] = ["Catalogue", "Facts"],
        ["Gates"] = ["Access"],
        ["Passwords"] = ["Access"],
        ["Redirects"] = ["Access"],
        ["Entries"] = ["Access", "Markup"],
        ["Prices"] = ["Orders"],
        ["People"] = ["Access"],
        ["Letters"] = ["People"],
        ["Pages"] = ["People"],
        ["Hosted"] = ["Pages"],
        ["Orders"] = ["People", "Letters", "Pages", "Passwords"],
        ["Files"] = ["People", "Letters", "Pages"],
        ["Audio"] = ["Files"],
        ["SiteFile"] = ["Gates", "Passwords", "Redirects", "Entries", "Letters", "Pages", "Orders", "Files", "Audio", "Prices"],
        ["SetUp"] = ["SiteFile"],
        ["Sweep"] = ["Access", "Entries"],
        ["Insights"] = ["Gates", "Passwords", "Redirects", "Entries", "Letters", "Pages", "Hosted", "Orders", "Files", "Audio", "Prices", "Sweep"],
    };

    /// <summary>
    /// What stands in the store between two rooms beside that: a row that cannot be read says what its gate closes, and a shared password ends what it
    /// unlocked.
    /// </summary>
    private static readonly Dictionary<string, string[]> StoreArrows = new(Arrows, StringComparer.Ordinal)
    {
        ["Nodes"] = [],
        ["Access"] = [],
        ["Catalogue"] = ["Access"],
        ["Facts"] = ["Access"],
        ["Passwords"] = ["People"],
    };

    /// <summary>
    /// In the service a room's endpoints stand above the rule: they ask the policy in force and know the caller, send letters, and show pages. The first two
    /// rooms are for all.
    /// </summary>
    private static readonly Dictionary<string, string[]> ServiceArrows = new(Arrows, StringComparer.Ordinal)
    {
        ["Web"] = [],
        ["Nodes"] = ["Web"],
        ["Access"] = ["Facts"],
        ["Catalogue"] = ["Access"],
        ["Gates"] = ["Catalogue", "People"],
        ["Pages"] = ["People", "Redirects", "Markup"],
        ["Passwords"] = ["Pages", "Letters"],
        ["Sweep"] = ["Letters", "Prices"],
        ["SiteFile"] = ["Catalogue", "Gates", "Passwords", "Letters", "Sweep"],
        ["SetUp"] = ["SiteFile", "Sweep"],
        ["Redirects"] = ["People"],
        ["Prices"] = ["Catalogue", "Orders"],
        ["Check"] = ["Catalogue", "People", "Redirects", "Prices"],
        ["Entries"] = ["Catalogue", "Pages", "Prices"],
        ["Hosted"] = ["Entries", "Gates", "Letters", "Audio"],
        ["Gateway"] = ["Hosted"],
    };

    [Fact]
    public void Rooms_of_the_heart_point_down_and_its_hall_knows_none() => Wrong(typeof(Problem).Assembly.Location, Arrows, [], true).ShouldBeEmpty();

    [Fact]
    public void Rooms_of_the_store_point_down() => Wrong(typeof(Store).Assembly.Location, StoreArrows, ["Nodes"], false).ShouldBeEmpty();

    [Fact]
    public void Rooms_of_the_service_point_down() => Wrong(typeof(Sentinel).Assembly.Location, ServiceArrows, ["Web", "Nodes"], false).ShouldBeEmpty();

    [Fact]
    public void No_floor_has_a_ring()
    {
        foreach (var arrows in new[] { Arrows, StoreArrows, ServiceArrows })
        {
            arrows.Keys.Where(room => Known(room, arrows).Contains(room)).ShouldBeEmpty();
        }
    }

    /// <summary>A using that nothing needs would be an arrow to whoever reads the file.</summary>
    [Theory]
    [InlineData("Core")]
    [InlineData("Storage")]
    [InlineData("Service")]
    public void What_a_file_says_it_uses_points_down_too(string floor)
    {
        var (arrows, forAll) = floor switch
        {
            "Core" => (Arrows, Array.Empty<string>()),
            "Storage" => (StoreArrows, ["Nodes"]),
            _ => (ServiceArrows, ["Web", "Nodes"]),
        };
        var root = Path.Combine(RunningSite.Root, "src", "WarySentinel." + floor);
        foreach (var file in Directory.EnumerateFiles(root, "*.cs", SearchOption.AllDirectories))
        {
            var room = Path.GetRelativePath(root, file).Split('/') is [var folder, _, ..] && arrows.ContainsKey(folder) ? folder : null;
            foreach (var used in room is null ? [] : File.ReadLines(file).Where(l => l.StartsWith("using WarySentinel.", StringComparison.Ordinal)))
            {
                if (used.TrimEnd(';').Split(' ')[1].Split('.') is [_, var on, var other])
                {
                    MayKnow(room!, other, on == floor, arrows, forAll).ShouldBeTrue($"{Path.GetRelativePath(root, file)}: {used}");
                }
            }
        }
    }

    [Fact]
    public void An_arrow_that_is_turned_is_found()
    {
        var turned = new Dictionary<string, string[]>(Arrows, StringComparer.Ordinal) { ["Catalogue"] = ["Access"], ["Access"] = ["Facts"] };
        Wrong(typeof(Problem).Assembly.Location, turned, [], true).ShouldContain(w => w.StartsWith("Access → Catalogue", StringComparison.Ordinal));
    }

    /// <summary>
    /// The mentions that no arrow allows: of a room on the same floor, those of that floor; of a room on a floor beneath, those of the heart as well.
    /// </summary>
    private static List<string> Wrong(string assembly, Dictionary<string, string[]> arrows, string[] forAll, bool hallKnowsNone)
    {
        using var module = ModuleDefinition.ReadModule(assembly);
        var found = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var type in module.GetTypes().Where(t => !t.FullName.Contains("Migrations", StringComparison.Ordinal)))
        {
            var (floor, room) = PlaceOf(type);
            foreach (var (on, other) in Mentions(type).Select(PlaceOf).Where(p => p.Room is not null && p.Room != room).Distinct())
            {
                if (room is null ? hallKnowsNone : !MayKnow(room, other!, on == floor, arrows, forAll))
                {
                    found.Add($"{room ?? "the hall"} → {other}: {type.FullName}");
                }
            }
        }

        return [.. found];
    }

    private static bool MayKnow(string room, string other, bool sameFloor, Dictionary<string, string[]> arrows, string[] forAll)
    {
        var known = Known(room, arrows);
        if (!sameFloor)
        {
            known.UnionWith([.. known.Append(room).Where(Arrows.ContainsKey).SelectMany(r => Known(r, Arrows))]);
        }

        known.UnionWith(forAll.Contains(room) ? [] : forAll);
        return room == other || known.Contains(other);
    }

    private static HashSet<string> Known(string room, Dictionary<string, string[]> arrows)
    {
        arrows.ShouldContainKey(room);
        var known = new HashSet<string>(StringComparer.Ordinal);
        var next = new Queue<string>(arrows[room]);
        while (next.TryDequeue(out var one))
        {
            if (known.Add(one))
            {
                arrows[one].ToList().ForEach(next.Enqueue);
            }
        }

        return known;
    }

    /// <summary>The project and room of a type of ours, the second and third part of its namespace; no room in the hall, and for what is not ours.</summary>
    private static (string? Floor, string? Room) PlaceOf(TypeReference type)
    {
        var outer = type.GetElementType();
        while (outer.DeclaringType is { } declaring)
        {
            outer = declaring.GetElementType();
        }

        return outer.Namespace.Split('.') is ["WarySentinel", var floor, var room, ..] ? (floor, room) : (null, null);
    }

    private static IEnumerable<TypeReference> Mentions(TypeDefinition type)
    {
        IEnumerable<TypeReference> all =
        [
            .. type.BaseType is null ? [] : Parts(type.BaseType), .. type.Interfaces.SelectMany(i => Parts(i.InterfaceType)),
            .. type.Fields.SelectMany(f => Parts(f.FieldType)), .. type.Properties.SelectMany(p => Parts(p.PropertyType)),
            .. type.CustomAttributes.SelectMany(a => Parts(a.AttributeType)),
        ];
        return all.Concat(type.Methods.SelectMany(m => (IEnumerable<TypeReference>)
        [
            .. Parts(m.ReturnType), .. m.Parameters.SelectMany(p => Parts(p.ParameterType)), .. m.HasBody ? InBody(m.Body) : [],
        ]));
    }

    private static IEnumerable<TypeReference> InBody(MethodBody body) => body.Variables.SelectMany(v => Parts(v.VariableType))
        .Concat(body.Instructions.SelectMany(i => i.Operand switch
        {
            TypeReference type => Parts(type),
            GenericInstanceMethod method => method.GenericArguments.SelectMany(Parts).Concat(Parts(method.DeclaringType)),
            MemberReference member => Parts(member.DeclaringType),
            _ => [],
        }));

    /// <summary>A type, and those it is made of.</summary>
    private static IEnumerable<TypeReference> Parts(TypeReference? type) => type switch
    {
        null or GenericParameter => [],
        GenericInstanceType generic => generic.GenericArguments.SelectMany(Parts).Prepend(generic.ElementType),
        TypeSpecification made => Parts(made.ElementType),
        _ => [type],
    };
}
