using Shouldly;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Forms;
using Xunit;

namespace WarySentinel.Core.Tests.People.Forms;

public sealed class FormTests
{
    private static readonly int Many = Trials.Of(1500, 60000);

    [Fact]
    public void Any_form_made_up_shows_asks_and_gives_what_a_plain_reading_of_it_does()
    {
        for (var seed = 0; seed < Many; seed++)
        {
            var made = new RandomForms(seed);
            var fields = made.Fields();
            var draft = made.Form(fields);
            var book = new FormBook([.. fields.Select(f => new Kept<FieldDraft>(f, 1))], [new Kept<FormDraft>(draft, 1)]);
            book.Broken.ShouldBeEmpty($"seed {seed}");
            var (form, typed) = (book.Forms[0], made.Typed(fields));
            var filled = FilledForm.Of(form, key => typed.GetValueOrDefault(key) ?? []);
            var plain = new PlainReading(draft, fields, typed);
            foreach (var key in fields.Select(f => f.Key!))
            {
                filled.Shows(key).ShouldBe(plain.Shows(key), $"seed {seed}, field {key}");
            }

            filled.GrantsOf(form).Count.ShouldBe(draft.Grants!.Count(g => plain.Holds(g.When)), $"seed {seed}");
            // What is not shown is not answered, whatever was sent; what is asked for and shown is answered or told of.
            filled.Answers.ShouldAllBe(a => filled.Shows(a.Field));
            foreach (var placed in form.Placed.Where(p => p.Required && filled.Shows(p.Field.Key)))
            {
                (filled.Answers.Any(a => a.Field == placed.Field.Key) || filled.Faults.Any(f => f.Field.Key == placed.Field.Key)).ShouldBeTrue();
            }
        }
    }

    [Fact]
    public void An_answer_in_its_one_spelling_reads_as_itself()
    {
        for (var seed = 0; seed < Many; seed++)
        {
            var made = new RandomForms(seed);
            var (fields, typed) = (made.Fields().Select(f => f.Read().Value).ToList(), made.Typed(made.Fields()));
            foreach (var field in fields)
            {
                var read = AnswerReader.Read(field, typed.GetValueOrDefault(field.Key) ?? []);
                if (read.IsGood)
                {
                    AnswerReader.Read(field, read.Value).Value.ShouldBe(read.Value, $"seed {seed}, {field.Kind}");
                }
            }
        }
    }

    [Fact]
    public void A_condition_that_leads_back_to_itself_is_told_with_the_ring()
    {
        FieldDraft[] fields = [Text("a"), Text("b"), Text("c")];
        PlacedDraft If(string field, string other) => new(field, false, new ConditionDraft { Field = other, Given = true });
        var ring = Read(new FormDraft { Key = "f", Title = "F", Sections = [new() { Fields = [If("a", "b"), If("b", "c"), If("c", "a")] }] }, fields);
        ring.Problem!.Code.ShouldBe("form-ring");
        ring.Problem.Detail.ToString().ShouldContain("a → b → c → a");
        var self = Read(new FormDraft { Key = "f", Title = "F", Sections = [new() { Fields = [If("a", "a")] }] }, fields);
        self.Problem!.Code.ShouldBe("form-ring");
        // A section's condition counts for all that stands in it.
        var bySection = new FormDraft
        {
            Key = "f", Title = "F",
            Sections = [new() { Fields = [If("a", "b")] }, new() { ShownIf = new() { Field = "a", Given = true }, Fields = [new("b")] }],
        };
        Read(bySection, fields).Problem!.Code.ShouldBe("form-ring");
    }

    [Theory]
    [InlineData("role:owner", "form-grant-staff")]
    [InlineData("role:editor", "form-grant-staff")]
    [InlineData("role:support", "form-grant-staff")]
    [InlineData("member:a@b.example", "form-grant")]
    [InlineData("bought:product:x", "form-grant")]
    [InlineData("dealers", "form-grant")]
    [InlineData(null, "form-grant")]
    public void A_form_gives_no_rights_of_staff_and_nothing_that_is_no_role_group_or_plan(string? grant, string code) => Read(
        new FormDraft { Key = "f", Title = "F", Grants = [new FormGrantDraft(grant)] }).Problem!.Code.ShouldBe(code);

    [Fact]
    public void What_makes_no_sense_is_told_at_its_place()
    {
        var broken = new FormDraft
        {
            Key = "F!", Title = "", LeadsTo = "https://elsewhere.example",
            Sections =
            [
                new()
                {
                    Fields =
                    [
                        new("a"), new("a"), new("nobody"), new(null), null!,
                        new("n", false, new ConditionDraft { Field = "n", Is = ["x"], Given = true }),
                    ],
                },
                null!,
            ],
            Approves = new FormApprovalDraft(["not a domain", null!], ["nobody"], new ConditionDraft()),
        };
        var faults = Read(broken, Text("a"), new FieldDraft { Key = "n", Kind = "number", Label = "N" }).Problem!.Faults.Select(f => f.Field).ToList();
        foreach (var place in new[]
        {
            "key", "title", "leadsTo", "sections[0].fields[1]", "sections[0].fields[2]", "sections[0].fields[3]", "sections[0].fields[4]",
            "sections[0].fields[5].shownIf", "sections[1]", "approves.domains", "approves.addresses", "approves.when",
        })
        {
            faults.ShouldContain(place);
        }
    }

    [Fact]
    public void A_field_that_makes_no_sense_is_told_at_its_place()
    {
        var faults = new FieldDraft
        {
            Key = "A.b", Kind = "text", Label = " ", Options = [new("a", "A"), null!], Pattern = "(", Least = "1", Types = ["pdf"], Country = "XX",
            Profile = "all", In = new Dictionary<string, FieldWords> { ["not a language"] = new("x"), ["de"] = new("\u0007") },
        }.Read().Problem!.Faults.Select(f => f.Field).ToList();
        foreach (var place in new[] { "key", "label", "options", "options[1].key", "pattern", "least", "types", "country", "profile", "in.not a language",
            "in.de.label" })
        {
            faults.ShouldContain(place);
        }

        new FieldDraft { Key = "a", Kind = "text", Label = "A", Pattern = "(?=x)" }.Read().Problem!.Code.ShouldBe("field-pattern",
            "no looking around: it takes no end");
        new FieldDraft { Key = "a", Kind = "text", Label = "A", Pattern = "a)|(b" }.Read().Problem!.Code.ShouldBe("field-pattern");
    }

    [Fact]
    public void Words_fall_back_to_the_sites_own_one_by_one()
    {
        var field = new FieldDraft
        {
            Key = "a", Kind = "one-of", Label = "Colour", Help = "Any", Options = [new("r", "Red"), new("g", "Green")],
            In = new Dictionary<string, FieldWords> { ["de"] = new("Farbe", Options: new Dictionary<string, string> { ["r"] = "Rot" }) },
        }.Read().Value;
        var german = field.WordsIn("de-AT");
        (german.Label, german.Help, german.Options!["r"], german.Options["g"]).ShouldBe(("Farbe", "Any", "Rot", "Green"));
        field.WordsIn("fr").Label.ShouldBe("Colour");
        field.WordsIn(null).Label.ShouldBe("Colour");
    }

    [Fact]
    public void A_fact_of_another_name_is_given_under_that_name()
    {
        var book = new FormBook([], [new Kept<FormDraft>(new FormDraft { Key = "f", Title = "F", Grants = [new("group:dealers"), new("role:dealer")] }, 3)]);
        var after = (FormBook)book.Mapped(new Core.Access.FactReplaced(FactKind.Group, "dealers", new Core.Access.Audience.Fact(FactKind.Group, "traders")).In);
        after.Forms[0].Grants.Select(g => g.Fact).ShouldBe(["group:traders", "role:dealer"]);
        ReferenceEquals(book.Mapped(a => a), book).ShouldBeTrue();
    }

    private static FieldDraft Text(string key) => new() { Key = key, Label = key };

    private static Outcome<JoinForm> Read(FormDraft draft, params FieldDraft[] fields) =>
        new FormReader(draft, fields.ToDictionary(f => f.Key!, f => f.Read().Value, StringComparer.Ordinal), 1).Read();

    /// <summary>The rules once more, as plainly as they can be said.</summary>
    private sealed class PlainReading(FormDraft form, IReadOnlyList<FieldDraft> fields, IReadOnlyDictionary<string, IReadOnlyList<string>> typed)
    {
        public bool Shows(string key)
        {
            var section = form.Sections!.First(s => s.Fields!.Any(f => f.Field == key));
            return Holds(section.ShownIf) && Holds(section.Fields!.First(f => f.Field == key).ShownIf);
        }

        public bool Holds(ConditionDraft? c)
        {
            if (c is null)
            {
                return true;
            }

            if (c.All is not null || c.Any is not null)
            {
                return c.All?.All(Holds) ?? c.Any!.Any(Holds);
            }

            if (c.Not is not null)
            {
                return !Holds(c.Not);
            }

            var answer = Shows(c.Field!) ? AnswerReader.PlainOf(fields.First(f => f.Key == c.Field).Read().Value,
                typed.GetValueOrDefault(c.Field!) ?? []) : null;
            if (c.Given is { } given)
            {
                return (answer is not null) == given;
            }

            if (answer is null)
            {
                return false;
            }

            if (c.Is is { } wanted)
            {
                return answer.Values.Any(v => wanted.Any(w => Same(answer.Kind, v, w)));
            }

            if (answer.Kind == FieldKind.Date)
            {
                return DateOnly.TryParseExact(answer.Values[0], "yyyy-MM-dd", out _)
                    && (c.AtLeast is null || string.CompareOrdinal(c.AtLeast,
                        answer.Values[0]) <= 0) && (c.AtMost is null || string.CompareOrdinal(answer.Values[0], c.AtMost) <= 0);
            }

            return NumberOf(answer.Values[0]) is { } number && (c.AtLeast is null || NumberOf(c.AtLeast) <= number)
                && (c.AtMost is null || number <= NumberOf(c.AtMost));
        }

        private static bool Same(FieldKind kind, string answer, string wanted) => kind switch
        {
            FieldKind.Number => NumberOf(answer) is { } number && number == NumberOf(wanted),
            FieldKind.Text => answer.Equals(string.Concat(wanted.Select(c => c is >= 'A' and <= 'Z' ? char.ToLowerInvariant(c) : c)), StringComparison.Ordinal),
            _ => answer == wanted,
        };

        private static decimal? NumberOf(string text) => text.Count(char.IsAsciiDigit) is > 0 and <= 40
            && text.All(c => char.IsAsciiDigit(c) || c is '.' or ',' or '-' or '+') && text[^1] is not ('.' or ',') && text.TrimStart('+',
                '-') is [>= '0' and <= '9', ..]
            && decimal.TryParse(text.Replace(',', '.'), System.Globalization.CultureInfo.InvariantCulture, out var number)
            && Math.Abs(number) < 1_000_000_000_000_000m ? number : null;
    }
}
