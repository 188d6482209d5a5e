using System.Net;
using System.Text;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>An atom without a key.</summary>
public enum PlainAtom
{
    /// <summary>Everybody.</summary>
    Anyone,
    /// <summary>Nobody.</summary>
    Nobody,
    /// <summary>Who is not signed in.</summary>
    Guest,
    /// <summary>Who is signed in.</summary>
    SignedIn,
    /// <summary>Who has unlocked this very gate with a shared password.</summary>
    Password,
    /// <summary>A crawler whose address checks out.</summary>
    Crawler,
}

/// <summary>
/// An expression that says whom a gate admits. Immutable; compared by structure. One that exists can be written down and read back as the same
/// (<see cref="AudienceParser"/>): what could not be is refused when it is made, with <see cref="ArgumentException"/>.
/// </summary>
public abstract record Audience
{
    /// <summary>How deep expressions may stand inside each other.</summary>
    public const int Deepest = 64;

    private Audience(int depth) =>
        Depth = depth <= Deepest ? depth : throw new ArgumentException($"Expressions stand at most {Deepest} deep inside each other.", nameof(depth));

    /// <summary>How many expressions stand inside each other, this one counted.</summary>
    internal int Depth { get; }

    /// <summary>Whether the visitor is admitted.</summary>
    /// <param name="visitor">The facts of the visitor.</param>
    /// <param name="gate">The gate that asks, for <c>password</c>.</param>
    /// <param name="now">The time of the decision.</param>
    public abstract bool Admits(Visitor visitor, string gate, DateTimeOffset now);

    /// <summary>All atoms of the expression, in order.</summary>
    public abstract IEnumerable<Audience> Atoms();

    /// <summary>All facts that it can hang on: its own, and those that the rules of its groups name.</summary>
    public IEnumerable<Fact> FactsAsked() => Atoms().OfType<Fact>().SelectMany(f => f.Rule is { } rule ? rule.FactsAsked().Prepend(f) : [f]);

    /// <summary>Whether it names that fact itself.</summary>
    public bool Names(FactKind kind, string key) => Atoms().Any(a => a is Fact fact && fact.Kind == kind && fact.Key == key);

    /// <summary>
    /// The same with other expressions in place of some of its facts; the very same where none is replaced. Parts that become the same stand once.
    /// Throws <see cref="ArgumentException"/> where it would stand too deep.
    /// </summary>
    /// <param name="instead">What stands in place of a fact; the fact itself where it stays.</param>
    public Audience Replacing(Func<Fact, Audience> instead)
    {
        switch (this)
        {
            case Fact fact:
                return instead(fact);
            case Not not:
                return not.Inner.Replacing(instead) is var inner && ReferenceEquals(inner, not.Inner) ? this : new Not(inner);
            case Many many:
                var parts = many.Parts.Select(p => p.Replacing(instead)).ToList();
                if (parts.Zip(many.Parts, ReferenceEquals).All(same => same))
                {
                    return this;
                }

                if (parts.SequenceEqual(many.Parts))
                {
                    return new Many(many.All, parts);
                }

                // An "or" in an "or" needs no brackets of its own.
                List<Audience> flat =
                    [.. parts.Zip(many.Parts).SelectMany(p => p is { First: Many m, Second: Fact } && m.All == many.All ? m.Parts : [p.First]).Distinct()];
                return flat.Count == 1 ? flat[0] : new Many(many.All, flat);
            default:
                return this;
        }
    }

    /// <summary>Whether a shared password could count in it.</summary>
    public bool AsksForPassword => Atoms().Any(a => a is Plain { Atom: PlainAtom.Password });

    /// <summary>
    /// The expression as rows of which any admits, each of terms that must all hold (an atom, or <c>not</c> with one). Null where that would be more than
    /// <paramref name="most"/> terms.
    /// </summary>
    public IReadOnlyList<IReadOnlyList<string>>? Rows(int most = 60)
    {
        var rows = Spread(this, false, most);
        return rows is null || rows.Sum(r => r.Count) > most ? null : rows;
    }

    private static List<IReadOnlyList<string>>? Spread(Audience part, bool not, int most)
    {
        switch (part)
        {
            case Not inner:
                return Spread(inner.Inner, !not, most);
            // "not (a or b)" is "not a and not b".
            case Many many when many.All != not:
                List<IReadOnlyList<string>> product = [[]];
                foreach (var one in many.Parts)
                {
                    if (Spread(one, not, most) is not { } next || product.Count * next.Count > most)
                    {
                        return null;
                    }

                    product = [.. product.SelectMany(row => next.Select(more => (IReadOnlyList<string>)[.. row.Union(more)]))];
                }

                return product;
            case Many any:
                var rows = new List<IReadOnlyList<string>>();
                foreach (var one in any.Parts)
                {
                    if (Spread(one, not, most) is not { } next || rows.Count + next.Count > most)
                    {
                        return null;
                    }

                    rows.AddRange(next);
                }

                return rows;
            default:
                return [[not ? $"not {part}" : part.ToString()!]];
        }
    }

    /// <summary>Everybody.</summary>
    public static readonly Audience Anyone = new Plain(PlainAtom.Anyone);

    /// <summary>A word alone.</summary>
    public sealed record Plain : Audience
    {
        /// <summary>Makes one. Throws <see cref="ArgumentException"/> on a word that there is not.</summary>
        public Plain(PlainAtom atom)
            : base(1) => Atom = Enum.IsDefined(atom) ? atom : throw new ArgumentException("There is no such word.", nameof(atom));

        /// <summary>The word.</summary>
        public PlainAtom Atom { get; }

        /// <inheritdoc/>
        public override bool Admits(Visitor visitor, string gate, DateTimeOffset now) => Atom switch
        {
            PlainAtom.Anyone => true,
            PlainAtom.Guest => !visitor.IsSignedIn,
            PlainAtom.SignedIn => visitor.IsSignedIn,
            PlainAtom.Password => visitor.HasUnlocked(gate, now),
            PlainAtom.Crawler => visitor.IsCrawler,
            _ => false,
        };

        /// <inheritdoc/>
        public override IEnumerable<Audience> Atoms() => [this];

        /// <inheritdoc/>
        public override string ToString() => NameOf(Atom);

        internal static string NameOf(PlainAtom atom) => atom == PlainAtom.SignedIn ? "signed-in" : atom.ToString().ToLowerInvariant();
    }

    /// <summary>A fact with its key.</summary>
    public sealed record Fact : Audience
    {
        /// <summary>Makes one. Throws <see cref="ArgumentException"/> on a key that could not be read back: empty, or with blanks or brackets in it.</summary>
        public Fact(FactKind kind, string key)
            : base(1)
        {
            if (!Enum.IsDefined(kind) || key.Length == 0 || key.Any(c => char.IsWhiteSpace(c) || c is '(' or ')')
                || (kind == FactKind.Member && !string.Equals(key, key.ToLowerInvariant(), StringComparison.Ordinal)))
            {
                throw new ArgumentException($"“{key}” is no key.", nameof(key));
            }

            (Kind, Key) = (kind, key);
        }

        /// <summary>What it tests.</summary>
        public FactKind Kind { get; }

        /// <summary>Its key; an e-mail address is in lower case.</summary>
        public string Key { get; }

        /// <summary>The rule of the group that it names, where that has one: an expression that itself is bound to rules.</summary>
        public Audience? Rule { get; private init; }

        /// <inheritdoc/>
        public override bool Admits(Visitor visitor, string gate, DateTimeOffset now) =>
            visitor.Has(Kind, Key, now) || (Rule is not null && visitor.IsSignedIn && Rule.Admits(visitor, gate, now));

        /// <summary>The same, of a group that has that rule; the very same where it is bound to it already.</summary>
        internal Fact BoundTo(Audience? rule) => ReferenceEquals(rule, Rule) ? this : this with { Rule = rule };

        /// <summary>Two are the same that are written the same, whatever the rule of their group says.</summary>
        public bool Equals(Fact? other) => other is not null && Kind == other.Kind && Key == other.Key;

        /// <inheritdoc/>
        public override int GetHashCode() => HashCode.Combine(Kind, Key);

        /// <inheritdoc/>
        public override IEnumerable<Audience> Atoms() => [this];

        /// <inheritdoc/>
        public override string ToString() => $"{FactNames.NameOf(Kind)}:{Key}";
    }

    /// <summary>An address range of the network (RFC 4632).</summary>
    public sealed record Network : Audience
    {
        /// <summary>Makes one. Throws <see cref="ArgumentException"/> on a range that is none, or is bound to one link of this machine.</summary>
        public Network(IPNetwork range)
            : base(1) => Range = range.BaseAddress is { } address
            && !(address.AddressFamily == System.Net.Sockets.AddressFamily.InterNetworkV6 && address.ScopeId != 0)
            ? range : throw new ArgumentException("An address range without a zone.", nameof(range));

        /// <summary>The range.</summary>
        public IPNetwork Range { get; }

        /// <inheritdoc/>
        public override bool Admits(Visitor visitor, string gate, DateTimeOffset now)
        {
            var address = visitor.Address;
            return address is not null && Range.Contains(address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address);
        }

        /// <inheritdoc/>
        public override IEnumerable<Audience> Atoms() => [this];

        /// <inheritdoc/>
        public override string ToString() => $"network:{Range}";
    }

    /// <summary>Who is not admitted by the inner expression.</summary>
    public sealed record Not : Audience
    {
        /// <summary>Makes one.</summary>
        public Not(Audience inner)
            : base(inner.Depth + 1) => Inner = inner;

        /// <summary>Whom it leaves out.</summary>
        public Audience Inner { get; }

        /// <inheritdoc/>
        public override bool Admits(Visitor visitor, string gate, DateTimeOffset now) => !Inner.Admits(visitor, gate, now);

        /// <inheritdoc/>
        public override IEnumerable<Audience> Atoms() => Inner.Atoms();

        /// <inheritdoc/>
        public override string ToString() => Inner is Many or Not ? $"not ({Inner})" : $"not {Inner}";
    }

    /// <summary>Two or more expressions of which all, or any, must admit.</summary>
    public sealed record Many : Audience
    {
        /// <summary>Joins two or more expressions. Throws <see cref="ArgumentException"/> on fewer.</summary>
        public Many(bool all, IReadOnlyList<Audience> parts)
            : base(parts.Select(p => p.Depth).DefaultIfEmpty().Max() + 1)
        {
            if (parts.Count < 2)
            {
                throw new ArgumentException("Two parts or more.", nameof(parts));
            }

            (All, Parts) = (all, [.. parts]);
        }

        /// <summary>Whether all must admit (<c>and</c>), or any is enough (<c>or</c>).</summary>
        public bool All { get; }

        /// <summary>The parts, in order.</summary>
        public IReadOnlyList<Audience> Parts { get; }

        /// <inheritdoc/>
        public override bool Admits(Visitor visitor, string gate, DateTimeOffset now)
        {
            for (var i = 0; i < Parts.Count; i++)
            {
                if (Parts[i].Admits(visitor, gate, now) != All)
                {
                    return !All;
                }
            }

            return All;
        }

        /// <inheritdoc/>
        public override IEnumerable<Audience> Atoms() => Parts.SelectMany(p => p.Atoms());

        /// <inheritdoc/>
        public override string ToString()
        {
            var built = new StringBuilder();
            for (var i = 0; i < Parts.Count; i++)
            {
                if (i > 0)
                {
                    built.Append(All ? " and " : " or ");
                }

                // "and" binds tighter than "or"; an expression of the same kind keeps its brackets, so that parsing gives it back.
                var bare = Parts[i] is not Many inner || (!All && inner.All);
                built.Append(bare ? $"{Parts[i]}" : $"({Parts[i]})");
            }

            return built.ToString();
        }

        /// <inheritdoc/>
        public bool Equals(Many? other) => other is not null && All == other.All && Parts.Count == other.Parts.Count && Parts.SequenceEqual(other.Parts);

        /// <inheritdoc/>
        public override int GetHashCode() => Parts.Aggregate(All ? 1 : 2, HashCode.Combine);
    }
}
